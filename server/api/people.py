"""People and their roles over HTTP: for administrators, and for each one's own password and sessions."""

from typing import Any, cast

from accounts.access import HalfSignedIn, require
from accounts.actions.drop_identity import drop_identity
from accounts.actions.keep_people import add_person, change_own_password, change_person, end_own_sessions, end_sessions_of, set_password
from accounts.actions.keep_second import begin_second, confirm_second, drop_second, take_second_away
from accounts.first_password import FIRST
from accounts.lasting import name_of, open_sessions
from accounts.models import Identity
from accounts.people import people
from accounts.proving import proven
from accounts.second import SESSION, has_second, is_needed, prove_second, remaining
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja import Router, Schema
from outside.services import sign_on_service
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["router"]

router = Router(tags=["people"])


class PersonOut(Schema):
    """A person by the name to sign in with. ``all_rights``: made from the command line, and may do everything; ``second``: signs in with a second
    factor; ``by_sign_on``: may come by the company's own sign-on; ``last_here``: when last signed in."""

    name: str
    full_name: str
    roles: list[str]
    all_rights: bool
    active: bool
    second: bool
    by_sign_on: bool
    last_here: str | None


class NotedOut(Schema):
    """What was done about the account of a person, by whom."""

    at: str
    by: str
    person: str
    what: str


class SeenOut(Schema):
    """What somebody took out as a file, or saw the costs or prices of: an address of the API without its beginning."""

    at: str
    by: str
    what: str
    thing: str


class PeopleOut(Schema):
    """Everybody; the roles with what each may change; the last things that were noted, and that were taken out or seen, the newest first.

    ``looks_noted``: whether looks at costs and prices are noted here.
    """

    people: list[PersonOut]
    roles: dict[str, list[str]]
    noted: list[NotedOut]
    seen: list[SeenOut]
    looks_noted: bool


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


class OwnSignOn(Schema):
    """What the company's own sign-on is called, empty where there is none; whether one comes by it, and whether one has a password beside it."""

    words: str
    connected: bool
    password: bool


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


class OwnSession(Schema):
    """An open session of one's own, by a name that does not open it: when it began and was last used, from where, with which program, and whether it is
    the one at hand."""

    name: str
    began: str
    seen: str
    place: str
    program: str
    here: bool


class SessionNamed(Schema):
    """A session of one's own; without a name all but the one at hand."""

    name: str = ""


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


@router.get("/own-sessions", response=list[OwnSession])
def read_own(request: HttpRequest) -> Any:
    """One's own open sessions, the last used first."""
    here = name_of(request.session.session_key or "")
    return [one | {"here": one["name"] == here} for one in open_sessions(request.user)]


@router.post("/own-sessions", response=Ended)
def end_own(request: HttpRequest, payload: SessionNamed) -> Any:
    """End one of one's own sessions, or all; the one at hand stays."""
    return {"sessions": end_own_sessions(request.user, request.session.session_key, payload.name or None)}


@router.post("/own-password", response=Ended, auth=HalfSignedIn())
def own_password(request: HttpRequest, payload: OwnPassword) -> Any:
    """Choose another password for oneself; one's other sessions end."""
    # Whoever finds a session open does not get to guess the password that opened it.
    if proven(request, request.user.get_username(), payload.old) is None:
        raise ProblemsError([Problem("old", "this is not the password of now")])
    person = change_own_password(request.user, payload.password)
    # The session at hand goes on, under another key.
    update_session_auth_hash(request, person)
    request.session[FIRST] = False
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


@router.get("/own-sign-on", response=OwnSignOn)
def read_sign_on(request: HttpRequest) -> Any:
    """Whether one comes by the company's own sign-on."""
    service, user = sign_on_service(), cast(User, request.user)
    return {
        "words": service.words if service else "",
        "connected": Identity.objects.filter(person=user).exists(),
        "password": user.has_usable_password(),
    }


@router.post("/own-sign-on/drop", response=OwnSignOn)
def drop_sign_on(request: HttpRequest) -> Any:
    """Come by it no more."""
    drop_identity(request.user)
    return read_sign_on(request)
