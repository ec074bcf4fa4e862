"""What a screen writes is written by who stands on it: where somebody else came in in the same browser meanwhile, it is refused."""

from collections.abc import Callable
from urllib.parse import quote

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse

from tally_site.health import DATABASE_AWAY

__all__ = ["SamePerson"]

#: Where one comes in and goes out: there it may be another.
_COMES_AND_GOES = ("/api/session", "/api/session/sign-on")


class SamePerson:
    """Middleware: a request that says on whose screen it was made (``X-Person``, as in an address) is theirs or nobody's."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        said = request.headers.get("X-Person")
        if not said or request.path in _COMES_AND_GOES:
            return self.get_response(request)
        try:
            here = request.user.get_username()
        except (OperationalError, InterfaceError):
            # Not left to what comes after: the database may be back by then, and so might be somebody else.
            return JsonResponse({"message": DATABASE_AWAY}, status=503)
        # In the form in which it travels: so nothing that was sent has to be read.
        if said != quote(here, safe=""):
            state = f"In this browser {here} is signed in now" if here else "You are signed out"
            return JsonResponse({"message": f"{state}, and nothing was saved. What you typed is still here."}, status=401)
        return self.get_response(request)
