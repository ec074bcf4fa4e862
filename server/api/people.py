"""People and their roles over HTTP: for administrators, and for each one's own password and sessions."""

from typing import Any

from accounts.access import require
from accounts.actions.keep_people import add_person, change_own_password, change_person, end_own_sessions, end_sessions_of, set_password
from accounts.people import people
from accounts.proving import proven
from django.contrib.auth import update_session_auth_hash
from django.http import HttpRequest
from ninja import Router, Schema
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["router"]

router = Router(tags=["people"])


class PersonOut(Schema):
    """A person by the name to sign in with. ``all_rights``: made from the command line, and may do everything; ``last_here``: when last signed in."""

    name: str
    full_name: str
    roles: list[str]
    all_rights: bool
    active: bool
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
