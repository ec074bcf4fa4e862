"""Requests that can be followed: each has a number, which its answer and everything that is logged meanwhile carry."""

import logging
import re
import time
import uuid
from collections.abc import Callable
from contextvars import ContextVar

from django.conf import settings
from django.http import HttpRequest, HttpResponse

__all__ = ["Followed", "OneLine", "WithRequest"]

_now: ContextVar[str] = ContextVar("request", default="")
_log = logging.getLogger("tally.requests")
#: What a proxy may give a request as its number.
_GIVEN = re.compile(r"[A-Za-z0-9._-]{8,64}")
#: What ends a line somewhere, and what steers a terminal.
_BREAKS = re.compile(r"[\x00-\x1f\x7f-\x9f\u2028\u2029]")


class Followed:
    """Middleware: numbers a request, or takes the number that a proxy of ours gave it, and logs one line when it is answered.

    The line names the address without what is asked of it: that may hold what people search for.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        given = request.META.get("HTTP_X_REQUEST_ID", "") if settings.TRUSTED_PROXIES else ""
        number = given if _GIVEN.fullmatch(given) else uuid.uuid4().hex
        held = _now.set(number)
        began = time.perf_counter()
        try:
            response = self.get_response(request)
            response["X-Request-Id"] = number
            if request.path.startswith("/api/"):
                # What a browser may keep says so itself.
                response.headers.setdefault("Cache-Control", "no-store")
            # Who asked, where it was needed for the answer: to look now could fail, and take with it what was answered.
            user = getattr(request, "_cached_user", None)
            _log.info(
                "%s %s",
                request.method,
                request.path,
                extra={
                    "status": response.status_code,
                    "ms": round((time.perf_counter() - began) * 1000, 1),
                    "by": str(user) if user and user.is_authenticated else "",
                },
            )
            return response
        finally:
            _now.reset(held)


class WithRequest(logging.Filter):
    """Puts the number of the request at hand on every record; none where nothing was requested, as in the worker."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.request_id = _now.get()
        return True


class OneLine(logging.Formatter):
    """A line of the log for people: what was sent to us cannot begin another one."""

    def formatMessage(self, record: logging.LogRecord) -> str:
        return _BREAKS.sub(lambda found: repr(found[0])[1:-1], super().formatMessage(record))
