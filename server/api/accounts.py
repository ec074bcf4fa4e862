"""Signing in and out."""

from typing import Any

from accounts.access import HalfSignedIn, refusal, sees_costs, sees_prices, subjects
from accounts.actions.keep_columns import drop_columns, keep_columns
from accounts.coming_back import SIGN_ON_CONNECTS, SIGN_ON_REFUSED
from accounts.first_password import FIRST, is_first, was_given
from accounts.lasting import signed_in
from accounts.models import SavedColumns
from accounts.people import note
from accounts.proving import proven
from accounts.second import SESSION, has_second, is_wanting, prove_second
from django.contrib.auth import login, logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.utils import check_csrf
from outside.services import sign_on_service
from outside.sign_on import address_to_sign_on
from tally_core.basics.errors import Problem, ProblemsError, TallyError

router = Router(tags=["session"])

#: Seconds in which one comes back from the sign-on.
_ON_THE_WAY = 900


class Session(Schema):
    """Who is signed in, ``user`` empty when nobody is; and why what may not be written may not, subject by subject.

    ``sees_prices``: whether what suppliers ask is shown, and ``sees_costs`` what things cost; ``has_password``: may sign in by one here, and not by the
    company's sign-on alone; ``wants_password``: a password of one's own is
    to be chosen before anything else, and ``wants_second`` a second factor to be set up. ``sign_on``: what
    the company's own sign-on is called, empty where there is none; ``sign_on_refused``: why who has just come back from it is not in, said once.
    """

    user: str
    name: str
    refused: dict[str, str]
    sees_prices: bool = True
    sees_costs: bool = True
    has_password: bool = True
    wants_password: bool = False
    wants_second: bool = False
    sign_on: str = ""
    sign_on_refused: str = ""


class SignIn(Schema):
    """Name and password; of who has a second factor a code of it, too."""

    user: str
    password: str
    code: str = ""


class SignOnBegun(Schema):
    """Where the browser goes next."""

    address: str


class ColumnsOut(Schema):
    """A set of columns of a list: those it hides."""

    name: str
    hidden: list[str]


class ColumnsIn(ColumnsOut):
    list_name: str


class ColumnsGone(Schema):
    list_name: str
    name: str


def _session(request: HttpRequest) -> Session:
    # GET writes this one thing: that it was said.
    refused = request.session.pop(SIGN_ON_REFUSED, "")
    user = signed_in(request)
    if user is None:
        return Session(user="", name="", refused={}, sign_on=_sign_on_words(), sign_on_refused=refused)
    reasons = {subject: refusal(user, subject) for subject in subjects()}
    return Session(
        user=user.get_username(),
        name=user.get_full_name(),
        sees_prices=sees_prices(user),
        sees_costs=sees_costs(user),
        has_password=user.has_usable_password(),
        wants_password=is_first(request),
        wants_second=is_wanting(request),
        refused={s: r for s, r in reasons.items() if r is not None},
        sign_on_refused=refused,
    )


def _sign_on_words() -> str:
    try:
        service = sign_on_service()
    except TallyError:
        # A file that is not as it should be must keep nobody from signing in by password.
        return ""
    return service.words if service else ""


@router.get("", response=Session, auth=None)
def read_session(request: HttpRequest) -> Session:
    """Who is signed in. Also hands out the CSRF cookie."""
    get_token(request)
    return _session(request)


@router.post("", response=Session, auth=None)
def sign_in(request: HttpRequest, payload: SignIn) -> Session:
    """Open a session."""
    if check_csrf(request) is not None:
        raise TallyError("This page is out of date; load it again and sign in.")
    user = proven(request, payload.user, payload.password)
    if user is None:
        raise ProblemsError([Problem("password", "This name and password do not go together.")])
    second = has_second(user)
    spare = prove_second(user, payload.code) if second else False
    first = was_given(user)
    login(request, user)
    request.session[SESSION], request.session[FIRST] = second, first
    # A good moment to let go of those that ran out.
    request.session.clear_expired()
    note(user, user, "signed in with a code for the day it is lost" if spare else "signed in")
    return _session(request)


@router.post("/sign-on", response=SignOnBegun, auth=None)
def begin_sign_on(request: HttpRequest) -> Any:
    """Go and prove who one is at the company's own sign-on; who is signed in connects it."""
    if check_csrf(request) is not None:
        raise TallyError("This page is out of date; load it again and sign in.")
    service = sign_on_service()
    if service is None:
        raise TallyError("There is no sign-on of a company here.")
    user = signed_in(request)
    request.session[SIGN_ON_CONNECTS] = user.pk if user else None
    if user is None:
        # Whoever only knocks leaves nothing behind for long.
        request.session.set_expiry(_ON_THE_WAY)
    return {"address": address_to_sign_on(request, service, request.build_absolute_uri("/sign-on/back"))}


@router.delete("", response=Session, auth=HalfSignedIn())
def sign_out(request: HttpRequest, response: HttpResponse) -> Session:
    """Close the session."""
    logout(request)
    # Pictures and files that the browser kept. What waits to be sent from the shop lies in its storage, and stays.
    response["Clear-Site-Data"] = '"cache"'
    # As whoever comes next finds it, with all the ways in.
    return _session(request)


def _columns(request: HttpRequest, list_name: str) -> list[ColumnsOut]:
    found = SavedColumns.objects.filter(user__username=request.user.get_username(), list_name=list_name)
    return [ColumnsOut(name=c.name, hidden=c.hidden) for c in found]


@router.get("/columns", response=list[ColumnsOut])
def read_columns(request: HttpRequest, list_name: str) -> Any:
    """The column sets that the signed-in person keeps for a list."""
    return _columns(request, list_name)


@router.post("/columns", response=list[ColumnsOut])
def save_columns(request: HttpRequest, payload: ColumnsIn) -> Any:
    """Keep a column set under a name."""
    keep_columns(request.user, payload.list_name, payload.name, payload.hidden)
    return _columns(request, payload.list_name)


@router.post("/columns/drop", response=list[ColumnsOut])
def remove_columns(request: HttpRequest, payload: ColumnsGone) -> Any:
    """Let a column set go."""
    drop_columns(request.user, payload.list_name, payload.name)
    return _columns(request, payload.list_name)
