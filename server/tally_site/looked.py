"""Who took files out, and, where that is set (``TALLY_LOOKS_NOTED``), who saw what things cost and what suppliers ask.

Files are noted each time; a look once a day for each person and thing, so that the list stays one that can be read.
"""

import logging
import re
from collections.abc import Callable

from accounts.models import Seen
from django.conf import settings
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.utils.timezone import localdate

__all__ = ["PRICES", "TELLS_COSTS", "Looked"]

#: Addresses that tell what suppliers ask, and those that tell what things cost; a test compares the second with what is kept from viewers.
PRICES = re.compile(r"/api/(buying|orders|quotes|requests)(/|$)")
TELLS_COSTS = re.compile(
    r"/api/(costing/(working|standards)|questions/|rounds(/|$)|sheets/(\d+/(view|history|edits)|list|compare|matrix|table/)"
    r"|parts(/one(/uses|/alternates|/history|/run-time)?|/rows.*|/list/.*)?$|shop/(orders|figures|stock|day|lots|as-built)|work-centers(/one.*)?$|library|lists/(look|file)"
    r"|inquiries/\d+/(result|lines)|finished-orders|findings|handover/\d+|cutting|substitution)"
)
#: What tells one thing of an address from another.
_NAMES = ("number", "part", "sheet", "left", "right", "code", "kind", "shape")
_MOST = 20_000
#: Looks of today that this process knows to be noted.
_noted: set[tuple[object, ...]] = set()


class Looked:
    """Middleware: leaves a record of files that are taken out, and of looks."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if response.status_code == 200 and request.path.startswith("/api/"):
            try:
                if request.user.is_authenticated:
                    self._note(request, response)
            except DatabaseError as error:
                # What was asked for has been answered; that this could not be noted is for whoever keeps the machine.
                logging.getLogger(__name__).error("%s was not noted: %s", request.path, error)
        return response

    def _note(self, request: HttpRequest, response: HttpResponse) -> None:
        by = f"{request.user}, by a token" if "Authorization" in request.headers else str(request.user)
        asked = "&".join(f"{name}={value}" for name in _NAMES for value in request.GET.getlist(name))
        thing = request.path.removeprefix("/api/") + (f"?{asked}" if asked else "")
        # Whatever somebody puts into an address is asked of nobody before it comes here.
        thing = "".join(c if c.isprintable() else "?" for c in thing[:300])
        if response.headers.get("Content-Disposition", "").startswith("attachment"):
            Seen.objects.create(by=by, what="took out", thing=thing)
        elif settings.LOOKS_NOTED:
            what = "saw prices" if PRICES.match(request.path) else "saw costs" if TELLS_COSTS.match(request.path) else ""
            look = (localdate(), by, what, thing)
            if what and look not in _noted:
                Seen.objects.bulk_create([Seen(day=look[0], by=by, what=what, thing=thing)], ignore_conflicts=True)
                if len(_noted) >= _MOST:
                    _noted.clear()
                _noted.add(look)
