"""A request that met another one in the database is tried again by itself."""

import random
import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

__all__ = ["RetryDeadlocks", "ask_for_retry"]

_TRIES = 4


def ask_for_retry(request: HttpRequest) -> None:
    """Have a request carried out once more: two transactions waited for one another, and nothing of this one was kept."""
    request.tally_retry = True  # type: ignore[attr-defined]


class RetryDeadlocks:
    """Middleware, the innermost: carries a request out again as long as it asks for it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        for attempt in range(_TRIES):
            request.tally_retry = False  # type: ignore[attr-defined]
            response = self.get_response(request)
            if not request.tally_retry or attempt == _TRIES - 1:  # type: ignore[attr-defined]
                break
            # A moment that differs from request to request, so that the same two do not meet again.
            time.sleep(random.uniform(0.02, 0.1) * (attempt + 1))
            for files in request.FILES.lists():
                for file in files[1]:
                    file.seek(0)
        return response
