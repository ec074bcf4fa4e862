"""Something happened that other programs may listen to: a word of it for each that does, within the caller's transaction."""

from datetime import timedelta
from functools import partial
from typing import Any

import orjson
from django.db import transaction
from django.utils.timezone import now
from django_tasks import task
from outside.calling import CallFailed
from outside.services import hook_places
from outside.telling import tell
from tally_core.basics.errors import TallyError

from events.models import Hook, Telling

__all__ = ["EVENTS", "FORMAT", "happened", "send"]

#: What can be listened to, and what it means.
EVENTS = {
    "sheet released": "A build sheet was released and holds from a day on.",
    "round accepted": "A round was accepted: new standards hold from a day on.",
    "handover done": "A product was handed over: what both sides agree on since.",
}
FORMAT = 1
#: Minutes until it is tried again; then it is given up.
_AGAIN = (1, 5, 30, 120, 720)


def happened(event: str, by: str, **said: Any) -> None:
    """Tell whoever listens, once the transaction is committed. What is said are plain values."""
    hooks = list(Hook.objects.filter(dropped_at=None, events__contains=[event]))
    body = {"format": FORMAT, "event": event, "at": now().isoformat(), "by": by} | said
    tellings = [Telling(hook=hook, event=event, body=body) for hook in hooks]
    for telling in Telling.objects.bulk_create(tellings):
        transaction.on_commit(partial(send.enqueue, telling.pk))


@task()
def send(telling_id: int) -> None:
    """Tell it; where it is not taken, it is tried again later, and later each time."""
    with transaction.atomic():
        telling = Telling.objects.select_for_update(skip_locked=True).filter(pk=telling_id, state="waiting").first()
        if telling is None:
            return
        telling.tries += 1
        telling.next_at = None
        try:
            place = hook_places().get(telling.hook.place)
            if place is None:
                raise CallFailed("an administrator does not allow this place any more")
            telling.answer = tell(place, telling.event, telling.pk, orjson.dumps(telling.body))
            telling.state = "told"
        except (CallFailed, TallyError) as error:
            telling.answer = str(error)[:300]
            _later(telling)
        telling.answered_at = now()
        telling.save()


def _later(telling: Telling) -> None:
    if telling.tries > len(_AGAIN) or telling.hook.dropped_at is not None:
        telling.state = "given up"
        return
    telling.next_at = now() + timedelta(minutes=_AGAIN[telling.tries - 1])
    if send.get_backend().supports_defer:
        later = send.using(run_after=telling.next_at)
        transaction.on_commit(partial(later.enqueue, telling.pk))
