"""People and their roles over HTTP: for administrators, and for each one's own password and sessions."""

from typing import Any

from accounts.access import HalfSignedIn, require
from accounts.actions.keep_people import add_person, change_own_password, change_person, end_own_sessions, end_sessions_of, set_password
from accounts.actions.keep_second import begin_second, confirm_second, drop_second, take_second_away
from accounts.people import people
from accounts.proving import proven
from accounts.second import SESSION, has_second, is_needed, prove_second, remaining
from django.contrib.auth import update_session_auth_hash
from django.http import HttpRequest
from ninja import Router, Schema
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["router"]

router = Router(tags=["people"])


class PersonOut(Schema):
    """A person by the name to sign in with. ``all_rights``: made from the command line, and may do everything; ``second``: signs in with a second
    factor; ``last_here``: when last signed in."""

    name: str
    full_name: str
    roles: list[str]
    all_rights: bool
    active: bool
    second: bool
    last_here: str | None


class NotedOut(Schema):
    """What was done about the account of a person, by whom."""

    at: str
    by: str
    person: str
    what: str


class PeopleOut(Schema):
    """Everybody; the roles with what each may change; the last things that were noted, the newest first."""

    people: list[PersonOut]
    roles: dict[str, list[str]]
    noted: list[NotedOut]


class PersonIn(Schema):
    name: str
    full_name: str = ""
    roles: list[str]
    password: str


class PersonChange(Schema):
    """What of a person becomes another; what is not stated stays."""

    name: str
    full_name: str | None = None
    roles: list[str] | None = None
    active: bool | None = None


class PersonPassword(Schema):
    name: str
    password: str


class OwnPassword(Schema):
    old: str
    password: str


class OwnSecond(Schema):
    """Whether one has a second factor, whether one needs it here, and how many codes for the day it is lost are left."""

    has: bool
    needed: bool
    left: int


class Proof(Schema):
    """One's password, and a code where one has a second factor."""

    password: str
    code: str = ""


class SecondBegun(Schema):
    """The secret in words, as an address for an authenticator, and as a picture to scan."""

    secret: str
    address: str
    picture: str


class SecondCode(Schema):
    code: str


class SpareCodes(Schema):
    """Codes for the day it is lost, each for once; they are not shown again."""

    codes: list[str]


class PersonNamed(Schema):
    name: str


class Ended(Schema):
    """How many sessions were ended."""

    sessions: int


@router.get("", response=PeopleOut)
def list_people(request: HttpRequest) -> Any:
    """Everybody, for who may change it."""
    require(request.user, "people")
    return people()


@router.post("", response=PeopleOut)
def add(request: HttpRequest, payload: PersonIn) -> Any:
    """Add a person."""
    add_person(request.user, payload.name, payload.full_name, payload.roles, payload.password)
    return people()


@router.post("/change", response=PeopleOut)
def change(request: HttpRequest, payload: PersonChange) -> Any:
    """Change roles or the name of a person, or whether they may sign in."""
    change_person(request.user, payload.name, payload.full_name, payload.roles, payload.active)
    return people()


@router.post("/password", response=PeopleOut)
def give_password(request: HttpRequest, payload: PersonPassword) -> Any:
    """Give a person another password."""
    set_password(request.user, payload.name, payload.password)
    return people()


@router.post("/sessions", response=Ended)
def end(request: HttpRequest, payload: PersonNamed) -> Any:
    """End all sessions of a person."""
    return {"sessions": end_sessions_of(request.user, payload.name)}


@router.post("/own-sessions", response=Ended)
def end_own(request: HttpRequest) -> Any:
    """End one's own sessions, but the one at hand."""
    return {"sessions": end_own_sessions(request.user, request.session.session_key)}


@router.post("/own-password", response=Ended)
def own_password(request: HttpRequest, payload: OwnPassword) -> Any:
    """Choose another password for oneself; one's other sessions end."""
    # Whoever finds a session open does not get to guess the password that opened it.
    if proven(request, request.user.get_username(), payload.old) is None:
        raise ProblemsError([Problem("old", "this is not the password of now")])
    person = change_own_password(request.user, payload.password)
    # The session at hand goes on, under another key.
    update_session_auth_hash(request, person)
    return {"sessions": end_own_sessions(request.user, request.session.session_key)}


@router.post("/second", response=PeopleOut)
def take_second(request: HttpRequest, payload: PersonNamed) -> Any:
    """Take the second factor of a person away who lost it."""
    take_second_away(request.user, payload.name)
    return people()


def _own_second(request: HttpRequest) -> dict[str, Any]:
    return {"has": has_second(request.user), "needed": is_needed(request.user), "left": remaining(request.user)}


def _prove_password(request: HttpRequest, password: str) -> None:
    if proven(request, request.user.get_username(), password) is None:
        raise ProblemsError([Problem("password", "this is not the password of now")])


@router.get("/own-second", response=OwnSecond, auth=HalfSignedIn())
def read_second(request: HttpRequest) -> Any:
    """How one signs in oneself."""
    return _own_second(request)


@router.post("/own-second", response=SecondBegun, auth=HalfSignedIn())
def begin_own_second(request: HttpRequest, payload: Proof) -> Any:
    """Begin to set a second factor up."""
    _prove_password(request, payload.password)
    return begin_second(request.user)


@router.post("/own-second/confirm", response=SpareCodes, auth=HalfSignedIn())
def confirm_own_second(request: HttpRequest, payload: SecondCode) -> Any:
    """Type its first code: from now on one signs in with it, and the session at hand counts as such."""
    codes = confirm_second(request.user, payload.code)
    request.session[SESSION] = True
    return {"codes": codes}


@router.post("/own-second/drop", response=OwnSecond)
def drop_own_second(request: HttpRequest, payload: Proof) -> Any:
    """Take one's own second factor away."""
    _prove_password(request, payload.password)
    prove_second(request.user, payload.code)
    drop_second(request.user)
    request.session[SESSION] = False
    return _own_second(request)
