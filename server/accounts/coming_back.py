"""The address to which a company's own sign-on sends people back."""

from django.contrib.auth import login
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.views.decorators.http import require_GET
from outside.services import sign_on_service
from outside.sign_on import who_signed_on
from tally_core.basics.errors import MissingError, TallyError

from accounts.first_password import FIRST
from accounts.lasting import signed_in
from accounts.people import note
from accounts.second import SESSION
from accounts.sign_on import connect, is_strong, person_of

__all__ = ["SIGN_ON_CONNECTS", "SIGN_ON_REFUSED", "come_back"]

#: Under which names a session says who connects, and why who came back is not in.
SIGN_ON_CONNECTS, SIGN_ON_REFUSED = "connects to the sign-on", "sign-on refused"


@require_GET
def come_back(request: HttpRequest) -> HttpResponse:
    """Sign in whoever the sign-on has proven, or connect them; whatever goes wrong is said on the first screen."""
    try:
        _take(request)
    except DatabaseError:
        # Somebody made the same person at the same moment, or nobody can be looked up.
        return HttpResponse("The database cannot be reached just now; go back, and try again.", status=503, content_type="text/plain")
    return HttpResponseRedirect("/")


def _take(request: HttpRequest) -> None:
    connects = request.session.pop(SIGN_ON_CONNECTS, None)
    try:
        service = sign_on_service()
        if service is None:
            raise MissingError("There is no sign-on of a company here.")
        claims = who_signed_on(request, service)
        if connects is None:
            person = person_of(service, claims)
            login(request, person, backend="django.contrib.auth.backends.ModelBackend")
            request.session[SESSION], request.session[FIRST] = is_strong(claims), False
            note(person, person, f"signed in by {service.words}")
        elif (user := signed_in(request)) and user.pk == connects:
            connect(user, service, claims)
        else:
            raise TallyError("Your session ended meanwhile; sign in, and connect it again.")
    except TallyError as error:
        request.session[SIGN_ON_REFUSED] = str(error)
