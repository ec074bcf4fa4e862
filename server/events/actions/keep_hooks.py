"""Have a place outside told what happens, or no longer; and tell something once more."""

from typing import Any

from accounts.access import require
from django.db import transaction
from django.utils.timezone import now
from outside.services import hook_places
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from events.happened import EVENTS, send
from events.models import Hook, Telling

__all__ = ["drop_hook", "make_hook", "tell_again"]

_MOST = 50


def make_hook(user: Any, name: str, place: str, events: list[str]) -> Hook:
    """A place is told from now on. Raises ProblemsError, and Refused."""
    require(user, "hooks")
    name = " ".join(name.split())
    problems = []
    if not 0 < len(name) <= 60 or not name.isprintable():
        problems.append(Problem("name", "say in 1 to 60 characters what it is for"))
    if place not in hook_places():
        problems.append(Problem("place", "an administrator says which places may be told; choose one of them"))
    if not events or set(events) - EVENTS.keys():
        problems.append(Problem("events", f"choose what it is told: {', '.join(EVENTS)}"))
    with transaction.atomic():
        if len(Hook.objects.select_for_update().filter(dropped_at=None)) >= _MOST:
            problems.append(Problem("", f"{_MOST} places are told already; let one go first"))
        if problems:
            raise ProblemsError(problems)
        hook = Hook(name=name, place=place, events=[e for e in EVENTS if e in events], made_by=str(user))
        hook._history_user = user
        hook.save()
        return hook


def drop_hook(user: Any, hook_id: int) -> None:
    """It is told nothing more; what was told stays to be read. Raises MissingError, and Refused."""
    require(user, "hooks")
    with transaction.atomic():
        hook = Hook.objects.select_for_update().filter(pk=hook_id, dropped_at=None).first()
        if hook is None:
            raise MissingError("This is told nothing any more.")
        hook.dropped_at = now()
        hook._history_user = user
        hook.save()
        hook.tellings.filter(state="waiting").update(state="given up", next_at=None)


def tell_again(user: Any, telling_id: int) -> Telling:
    """Tell it once more, now. Raises MissingError, and Refused."""
    require(user, "hooks")
    with transaction.atomic():
        telling = Telling.objects.select_for_update().filter(pk=telling_id, hook__dropped_at=None).first()
        if telling is None:
            raise MissingError("This is no longer there.")
        telling.state, telling.tries, telling.next_at = "waiting", 0, None
        telling.save()
    send.enqueue(telling.pk)
    telling.refresh_from_db()
    return telling
