"""Signing in and out."""

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.throttling import AnonRateThrottle
from ninja.utils import check_csrf
from tally_core.errors import Problem, ProblemsError, TallyError

from .access import writable

router = Router(tags=["session"])


class Session(Schema):
    """Who is signed in; ``user`` empty when nobody is."""

    user: str
    name: str
    writes: list[str]


class SignIn(Schema):
    user: str
    password: str


def _session(request: HttpRequest) -> Session:
    user = request.user
    if not user.is_authenticated:
        return Session(user="", name="", writes=[])
    return Session(user=user.get_username(), name=user.get_full_name(), writes=sorted(writable(user)))


@router.get("", response=Session, auth=None)
def read_session(request: HttpRequest) -> Session:
    """Who is signed in. Also hands out the CSRF cookie."""
    get_token(request)
    return _session(request)


@router.post("", response=Session, auth=None, throttle=[AnonRateThrottle("120/m")])
def sign_in(request: HttpRequest, payload: SignIn) -> Session:
    """Open a session."""
    if check_csrf(request) is not None:
        raise TallyError("This page is out of date; load it again and sign in.")
    user = authenticate(request, username=payload.user, password=payload.password)
    if user is None:
        raise ProblemsError([Problem("password", "This name and password do not go together.")])
    login(request, user)
    return _session(request)


@router.delete("", response=Session)
def sign_out(request: HttpRequest) -> Session:
    """Close the session."""
    logout(request)
    return Session(user="", name="", writes=[])
