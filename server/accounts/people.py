"""Who works here: people, their roles, when they were last here, and what was done about their accounts."""

from collections.abc import Collection
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.exceptions import ValidationError

from accounts.access import GROUPS
from accounts.lasting import name_of, sessions_of
from accounts.models import Identity, Noted, Seen
from accounts.second import who_have_one

__all__ = ["end_sessions", "listed", "note", "people", "roles_of", "wrong_name"]

_MOST_NOTED = 200


def note(by: Any, person: Any, what: str) -> None:
    """Leave a record about an account."""
    Noted.objects.create(by=str(by), person=str(person), what=what)


def roles_of(user: Any) -> list[str]:
    """The roles of a person, in the order in which they are shown."""
    held = {group.name for group in user.groups.all()}
    return [name for name in GROUPS if name in held]


def listed(roles: Collection[str]) -> str:
    """Roles in words.

    >>> listed(["buyer", "engineer"]), listed([])
    ('engineer, buyer', 'no role')
    """
    return ", ".join(name for name in GROUPS if name in roles) or "no role"


def wrong_name(name: str) -> bool:
    """Whether nobody can sign in by a name: it is 1 to 60 letters, digits and ``. _ - @ +``."""
    try:
        get_user_model().username_validator(name)
    except ValidationError:
        return True
    return not 0 < len(name) <= 60


def people() -> dict[str, Any]:
    """Everybody, the last things that were noted, and what was last looked at and taken out. Six queries."""
    found = list(get_user_model().objects.order_by("username").prefetch_related("groups"))
    second, by_sign_on = who_have_one(found), set(Identity.objects.values_list("person", flat=True))
    return {
        "people": [
            {
                "name": user.get_username(),
                "full_name": user.get_full_name(),
                "roles": roles_of(user),
                "all_rights": user.is_superuser,
                "active": user.is_active,
                "second": user.pk in second,
                "by_sign_on": user.pk in by_sign_on,
                "last_here": user.last_login.isoformat() if user.last_login else None,
            }
            for user in found
        ],
        "roles": {name: sorted(may) for name, may in GROUPS.items()},
        "noted": [{"at": n.at.isoformat(), "by": n.by, "person": n.person, "what": n.what} for n in Noted.objects.all()[:_MOST_NOTED]],
        "seen": [{"at": s.at.isoformat(), "by": s.by, "what": s.what, "thing": s.thing} for s in Seen.objects.all()[:_MOST_NOTED]],
        "looks_noted": settings.LOOKS_NOTED,
    }


def end_sessions(user: Any, but: str | None = None, only: str | None = None) -> int:
    """End all sessions of a person, but one by its key; or one alone, by its name. Answers how many."""
    ended = 0
    for session in sessions_of(user):
        if session.session_key != but and only in (None, name_of(session.session_key)):
            session.delete()
            ended += 1
    return ended
