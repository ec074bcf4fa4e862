"""Who works here: people, their roles, when they were last here, and what was done about their accounts."""

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.utils.timezone import now

from accounts.access import GROUPS
from accounts.models import Noted
from accounts.second import who_have_one

__all__ = ["end_sessions", "note", "people", "roles_of"]

_MOST_NOTED = 200


def note(by: Any, person: Any, what: str) -> None:
    """Leave a record about an account."""
    Noted.objects.create(by=str(by), person=str(person), what=what)


def roles_of(user: Any) -> list[str]:
    """The roles of a person, in the order in which they are shown."""
    held = {group.name for group in user.groups.all()}
    return [name for name in GROUPS if name in held]


def people() -> dict[str, Any]:
    """Everybody, and the last things that were noted. Four queries."""
    found = list(get_user_model().objects.order_by("username").prefetch_related("groups"))
    second = who_have_one(found)
    return {
        "people": [
            {
                "name": user.get_username(),
                "full_name": user.get_full_name(),
                "roles": roles_of(user),
                "all_rights": user.is_superuser,
                "active": user.is_active,
                "second": user.pk in second,
                "last_here": user.last_login.isoformat() if user.last_login else None,
            }
            for user in found
        ],
        "roles": {name: sorted(may) for name, may in GROUPS.items()},
        "noted": [{"at": n.at.isoformat(), "by": n.by, "person": n.person, "what": n.what} for n in Noted.objects.all()[:_MOST_NOTED]],
    }


def end_sessions(user: Any, but: str | None = None) -> int:
    """End all sessions of a person, but one by its key; answers how many."""
    ended = 0
    for session in Session.objects.filter(expire_date__gte=now()).iterator():
        if session.session_key != but and session.get_decoded().get("_auth_user_id") == str(user.pk):
            session.delete()
            ended += 1
    return ended
