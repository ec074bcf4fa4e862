"""What rounds have for somebody today."""

from typing import Any

from django.db.models import F
from django.db.models.functions import Abs
from loading.standards import MILLION
from readings.heaps import Heap, Row, heap_of, part_address
from standards.models import Round, Tally, TallyRow

from rounds.staleness import changes_since

__all__ = ["largest_moves", "waiting"]


def waiting(user: Any) -> Heap:
    """Open rounds: not tallied yet, made stale by what was written since, or ready to be accepted."""
    tallies = {t.round_id: t for t in Tally.objects.filter(round__status="open")}

    def row(the_round: Round) -> Row:
        tally = tallies.get(the_round.pk)
        stale = changes_since(the_round, tally) if tally else []
        words = "not tallied yet" if tally is None else f"stale: {stale[0]}" if stale else "tallied, to be accepted"
        return Row(the_round.name, f"from {the_round.first_day:%d %b %Y}", words, f"/rounds/{the_round.pk}", bool(stale))

    return heap_of(Round.objects.filter(status="open").order_by("first_day", "pk"), row, "/rounds")


def largest_moves(user: Any) -> Heap:
    """What moves most in the open round that was tallied last."""
    tally = Tally.objects.filter(round__status="open").select_related("round").order_by("-tallied_at").first()
    if tally is None:
        return Heap([], 0, "/rounds")
    found = TallyRow.objects.filter(tally=tally, before__gt=0).exclude(unit=F("before")).select_related("part")
    found = found.annotate(far=Abs(F("unit") - F("before"))).order_by("-far", "part__number")

    def row(x: TallyRow) -> Row:
        moved = x.unit - x.before
        words = f"{moved / MILLION:+.2f}, {moved / x.before * 100:+.1f} %"
        return Row(x.part.number, x.part.description, words, part_address(x.part.number))

    return heap_of(found, row, f"/rounds/{tally.round_id}")
