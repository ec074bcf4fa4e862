"""Writing what somebody decides on lines: with what it found and what it left, so that it can be taken back, and remembered."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from definition.models.parts import Part
from django.db import transaction
from django.db.models import Max
from django.utils.timezone import now
from tally_core.pairing.numbers import fold

from inquiries.checking import MOST_AT_ONCE, check, check_later
from inquiries.lines import counting, thing_of, written
from inquiries.models import Decision, Inquiry, ListLine, RememberedPair

__all__ = ["KEPT", "Step", "carry_on", "keep", "lay_back"]

#: What of a line a decision may change.
KEPT = ("state", "part", "road", "refused", "mended", "waived")


@dataclass(slots=True)
class Step:
    """One decision on one line: the fields it leaves; ``part`` is a Part or None."""

    line: ListLine
    verb: str
    after: dict[str, Any]
    words: str = ""
    before: dict[str, Any] = field(default_factory=dict)


def _plain(line: ListLine, names: Iterable[str]) -> dict[str, Any]:
    return {n: (line.part.number if line.part else None) if n == "part" else getattr(line, n) for n in names}


def keep(inquiry: Inquiry, steps: list[Step], user: Any) -> int:
    """Write some decisions as one batch, to be taken back together; remembers pairs for the sender. Answers the batch.

    Within a transaction of the caller, who holds the inquiry and has checked the right. What is found is looked for anew.
    """
    batch = (Decision.objects.filter(inquiry=inquiry).aggregate(m=Max("batch"))["m"] or 0) + 1
    rows = []
    for step in steps:
        step.before = _plain(step.line, step.after)
        for name, value in step.after.items():
            setattr(step.line, name, value)
        if "mended" in step.after:
            step.line.thing = thing_of(step.line)
        if "state" in step.after:
            step.line.decided_by, step.line.decided_at = str(user), now()
        rows.append(
            Decision(
                inquiry=inquiry,
                line=step.line,
                batch=batch,
                verb=step.verb,
                before=step.before,
                after=_plain(step.line, step.after),
                words=step.words,
                by=str(user),
            )
        )
    Decision.objects.bulk_create(rows, batch_size=1000)
    _remember(inquiry, [s.line for s in steps if s.verb == "take"], user)
    written(inquiry, [s.line for s in steps], [*KEPT, "thing", "decided_by", "decided_at"])
    carry_on(inquiry)
    return batch


def carry_on(inquiry: Inquiry) -> None:
    """Look for what is found anew: at once for an inquiry of usual size, else by the worker, once for writes that follow one another."""
    if counting(inquiry).count() <= MOST_AT_ONCE:
        check(inquiry)
    else:
        key, stamp = inquiry.pk, inquiry.stamp
        transaction.on_commit(lambda: check_later.enqueue(key, stamp))


def lay_back(inquiry: Inquiry, rows: list[Decision], user: Any) -> list[ListLine]:
    """Take back what some decisions of one batch left, where it still stands; answers the lines that changed."""
    lines = {x.pk: x for x in ListLine.objects.select_related("part").filter(pk__in=[r.line_id for r in rows])}
    numbers = {r.before.get("part") for r in rows if r.before.get("part")}
    parts = {p.number: p for p in Part.objects.filter(number__in=numbers)}
    back = []
    for row in rows:
        line = lines.get(row.line_id)
        if line is None or _plain(line, row.after) != row.after:
            continue
        for name, value in row.before.items():
            setattr(line, name, parts.get(value) if name == "part" else value)
        if "state" in row.before:
            line.decided_by, line.decided_at = (str(user), now()) if line.state != "open" else ("", None)
        line.thing = thing_of(line)
        if row.verb == "take":
            _forget(inquiry, line, row)
        back.append(line)
        row.taken_back_at = now()
    Decision.objects.bulk_update(rows, ["taken_back_at"], batch_size=1000)
    written(inquiry, back, [*KEPT, "thing", "decided_by", "decided_at"])
    carry_on(inquiry)
    return back


def _remember(inquiry: Inquiry, lines: list[ListLine], user: Any) -> None:
    """What a sender calls a thing is known from now on, with the words it was decided on."""
    if inquiry.customer_id is None:
        return
    found = {}
    for line in lines:
        said = line.as_mended()
        number = said.get("part") or said.get("maker_number") or ""
        if fold(number) and line.part is not None:
            told = {n: said.get(n) or "" for n in ("description", "maker", "maker_number")}
            found[fold(number)[:200]] = (number, line.part, told)
    kept = {p.folded: p for p in RememberedPair.objects.filter(customer__name=inquiry.customer_id, folded__in=found)}
    for folded, (number, part, told) in found.items():
        pair = kept.get(folded) or RememberedPair(customer_id=inquiry.customer_id, folded=folded)
        if pair.pk and pair.part_id == part.pk and pair.told == told:
            continue
        pair.number, pair.part, pair.told, pair.decided_by, pair.decided_at = number, part, told, str(user), now()
        pair.save()


def _forget(inquiry: Inquiry, line: ListLine, row: Decision) -> None:
    """A pair that is taken back is no longer remembered, but one that an earlier decision made is."""
    said = line.as_mended()
    folded = fold(said.get("part") or said.get("maker_number") or "")[:200]
    pair = RememberedPair.objects.filter(customer__name=inquiry.customer_id, folded=folded).first() if folded else None
    if pair is None or pair.decided_by != row.by or pair.decided_at < row.at or pair.part.number != row.after.get("part"):
        return
    was = pair.history.order_by("-history_id")[1:2].first()
    if was is None or was.history_type == "-":
        pair.delete()
        return
    pair.part_id, pair.number, pair.told = was.part_id, was.number, was.told
    pair.decided_by, pair.decided_at = was.decided_by, was.decided_at
    pair.save()
