"""Over HTTP: which places outside are told what happens, and what became of it."""

from typing import Any

from django.http import HttpRequest
from events.actions.keep_hooks import drop_hook, make_hook, tell_again
from events.happened import EVENTS
from events.models import Hook, Telling
from ninja import Router, Schema
from outside.services import hook_places

__all__ = ["router"]

router = Router(tags=["hooks"])

_SHOWN = 50


class HookPlaceOut(Schema):
    """A place that may be told, by our name for it."""

    name: str
    words: str


class EventOut(Schema):
    """What can be listened to."""

    name: str
    means: str


class HookOut(Schema):
    """A place that is told."""

    id: int
    name: str
    place: str
    events: list[str]
    made_by: str
    made_at: str


class TellingOut(Schema):
    """One telling, and what was answered."""

    id: int
    hook: str
    event: str
    body: dict[str, Any]
    made_at: str
    state: str
    tries: int
    next_at: str | None
    answer: str


class HooksOut(Schema):
    """All of it; the last fifty tellings."""

    places: list[HookPlaceOut]
    events: list[EventOut]
    hooks: list[HookOut]
    tellings: list[TellingOut]


class HookIn(Schema):
    """A place to be told."""

    name: str
    place: str
    events: list[str]


def _shown() -> dict[str, Any]:
    return {
        "places": [{"name": n, "words": p.words} for n, p in hook_places().items()],
        "events": [{"name": n, "means": m} for n, m in EVENTS.items()],
        "hooks": [
            {"id": h.pk, "name": h.name, "place": h.place, "events": h.events, "made_by": h.made_by, "made_at": h.made_at.isoformat()}
            for h in Hook.objects.filter(dropped_at=None).order_by("id")
        ],
        "tellings": [
            {
                "id": t.pk,
                "hook": t.hook.name,
                "event": t.event,
                "body": t.body,
                "made_at": t.made_at.isoformat(),
                "state": t.state,
                "tries": t.tries,
                "next_at": t.next_at.isoformat() if t.next_at else None,
                "answer": t.answer,
            }
            for t in Telling.objects.select_related("hook")[:_SHOWN]
        ],
    }


@router.get("", response=HooksOut)
def list_hooks(request: HttpRequest) -> Any:
    """Who is told what, and what was told. Two queries."""
    return _shown()


@router.post("", response=HooksOut)
def begin_telling(request: HttpRequest, payload: HookIn) -> Any:
    """Have a place told from now on."""
    make_hook(request.user, payload.name, payload.place, payload.events)
    return _shown()


@router.post("/{hook_id}/drop", response=HooksOut)
def end_telling(request: HttpRequest, hook_id: int) -> Any:
    """Tell it nothing more."""
    drop_hook(request.user, hook_id)
    return _shown()


@router.post("/tellings/{telling_id}/again", response=HooksOut)
def once_more(request: HttpRequest, telling_id: int) -> Any:
    """Tell something once more."""
    tell_again(request.user, telling_id)
    return _shown()
