"""Add a person, give and take roles, lock an account, set a password, end sessions."""

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Q
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from accounts.access import GROUPS, require
from accounts.first_password import choose_own, give
from accounts.people import end_sessions, listed, note, roles_of, wrong_name

__all__ = ["add_person", "change_own_password", "change_person", "end_own_sessions", "end_sessions_of", "set_password"]


def add_person(user: Any, name: str, full_name: str, roles: list[str], password: str) -> None:
    """A person who may sign in from now on. Raises ProblemsError, and Refused."""
    require(user, "people")
    people = get_user_model()
    problems = [*_wrong_roles(roles), *_wrong_full_name(full_name)]
    if wrong_name(name):
        problems.append(Problem("name", "a name to sign in with is 1 to 60 letters, digits and . _ - @ +"))
    elif people.objects.filter(username__iexact=name).exists():
        problems.append(Problem("name", f"{name} is taken"))
    made = people(username=name, first_name=full_name.strip())
    problems += _weak(password, made)
    if problems:
        raise ProblemsError(problems)
    with transaction.atomic():
        made.set_password(password)
        made.save()
        made.groups.set(Group.objects.filter(name__in=roles))
        give(made)
        note(user, name, f"added as {listed(roles)}")


def change_person(user: Any, name: str, full_name: str | None, roles: list[str] | None, active: bool | None) -> None:
    """Change what is stated of a person; the rest stays. A locked account has no session any more.

    Raises ProblemsError, also where nobody would be left who may do this; MissingError and Refused.
    """
    require(user, "people")
    with transaction.atomic():
        # Two who take one another's role away at once would leave nobody.
        Group.objects.select_for_update().get(name="administrator")
        person = _held(name)
        problems = [*_wrong_roles(roles or []), *_wrong_full_name(full_name or "")]
        if person.is_superuser and not user.is_superuser and active is False:
            problems.append(Problem("", f"{name} has all rights; only who has them too locks that account"))
        if problems:
            raise ProblemsError(problems)
        if full_name is not None and full_name.strip() != person.get_full_name():
            person.first_name, person.last_name = full_name.strip(), ""
            note(user, name, f"is called {full_name.strip() or 'nothing'}")
        if roles is not None and set(roles) != set(roles_of(person)):
            note(user, name, f"{listed(roles_of(person))} before, {listed(roles)} now")
            person.groups.set(Group.objects.filter(name__in=roles))
        if active is not None and active != person.is_active:
            person.is_active = active
            note(user, name, "may sign in again" if active else "is locked out")
            if not active:
                end_sessions(person)
        person.save()
        left = get_user_model().objects.filter(Q(is_superuser=True) | Q(groups__name="administrator"), is_active=True)
        if not left.exists():
            raise ProblemsError([Problem("", "somebody has to stay who may do this; make another administrator first")])


def set_password(user: Any, name: str, password: str) -> None:
    """Give a person another password, with which they choose their own; all their sessions end. Raises ProblemsError, MissingError and Refused."""
    require(user, "people")
    with transaction.atomic():
        person = _held(name)
        if person.is_superuser and not user.is_superuser:
            raise ProblemsError([Problem("", f"{name} has all rights; only who has them too sets that password")])
        _set(person, password)
        give(person)
        note(user, name, "got another password")


def change_own_password(user: Any, new: str) -> Any:
    """For who has proven the old one; answers the person as they are now. Raises ProblemsError where the new one is too easy to guess, or the old."""
    with transaction.atomic():
        person = _held(user.get_username())
        if person.check_password(new):
            raise ProblemsError([Problem("password", "this is the password of now; choose another one")])
        _set(person, new)
        choose_own(person)
        note(user, user, "chose another password")
    return person


def end_sessions_of(user: Any, name: str) -> int:
    """End all sessions of a person; answers how many. Raises MissingError and Refused."""
    require(user, "people")
    return _end(user, name, None)


def end_own_sessions(user: Any, but: str | None, only: str | None = None) -> int:
    """End one's own sessions, but that at hand by its key, or one alone by its name; answers how many."""
    return _end(user, user.get_username(), but, only)


def _end(user: Any, name: str, but: str | None, only: str | None = None) -> int:
    with transaction.atomic():
        ended = end_sessions(_held(name), but, only)
        note(user, name, f"{ended} sessions ended" if ended != 1 else "1 session ended")
    return ended


def _held(name: str) -> Any:
    person = get_user_model().objects.select_for_update().filter(username=name).first()
    if person is None:
        raise MissingError(f"There is nobody of the name {name}.")
    return person


def _set(person: Any, password: str) -> None:
    problems = _weak(password, person)
    if problems:
        raise ProblemsError(problems)
    person.set_password(password)
    person.save()


def _weak(password: str, person: Any) -> list[Problem]:
    if len(password) > 1000:
        return [Problem("password", "a password has at most 1,000 characters")]
    try:
        validate_password(password, person)
    except ValidationError as error:
        return [Problem("password", " ".join(error.messages))]
    return []


def _wrong_roles(roles: list[str]) -> list[Problem]:
    unknown = [role for role in roles if role not in GROUPS]
    return [Problem("roles", f"{unknown[0]} is no role; they are {', '.join(GROUPS)}")] if unknown else []


def _wrong_full_name(name: str) -> list[Problem]:
    fits = len(name) <= 100 and name.isprintable()
    return [] if fits else [Problem("full_name", "a name is at most 100 characters on one line")]
