"""What only production needs: a line of theirs that we add for them, or that we find there and leave; kept from then on (rule H4)."""

from typing import Any

from accounts.access import require
from definition.models.parts import Part
from outside.calling import CallFailed
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.basics.units import SYMBOLS
from tally_core.stated.reading import RecordReader
from verbs.contract import writing

from handover.actions.read_again import open_one
from handover.kept import read_from
from handover.known_as import book_of
from handover.looking import look_at
from handover.models import ByHand, Handover

__all__ = ["add_by_hand", "keep_by_hand", "let_go_by_hand"]


def add_by_hand(user, handover_id: int, part: str, alternate: str, said: dict[str, Any]) -> ByHand:
    """Add a line to their structure of a part; it is written with the handover.

    Args:
        said: ``item`` (a code of theirs), ``quantity`` and ``unit`` (ours), ``issue_at`` (an operation's sequence, or None), ``reason``.

    Raises ProblemsError naming what is missing, MissingError, TallyError, and Refused.
    """
    require(user, "handover")
    # Asked before the handover is held: they may take their time.
    item = str(said.get("item") or "").strip()
    known = _is_theirs(handover_id, item)
    with writing(user, "handover"):
        handover = open_one(handover_id)
        reader = RecordReader()
        quantity = reader.decimal(said.get("quantity") or "", "quantity")
        problems = list(reader.problems)
        if quantity is not None and not 0 < quantity < 10**12:
            problems.append(Problem("quantity", "a quantity above nothing is needed"))
        if not str(said.get("reason") or "").strip():
            problems.append(Problem("reason", "say why production needs it"))
        if said.get("unit") not in SYMBOLS:
            problems.append(Problem("unit", "the unit is not known"))
        parent = Part.objects.filter(number=part).first()
        if parent is None:
            raise MissingError(f"part {part} is not known")
        if not known:
            problems.append(Problem("item", f"{item or 'this'} is not among their items"))
        look = look_at(handover)
        if (part, alternate) not in look.ours.sheets:
            problems.append(Problem("part", f"{part} has no build sheet {alternate} in this product"))
        step = said.get("issue_at")
        if step is not None and not any(
            o.sequence == step
            for s in (*look.ours.of.definition.sheets, *look.theirs.of.definition.sheets)
            if (s.part, s.alternate) == (part, alternate)
            for o in s.operations
        ):
            problems.append(Problem("issue_at", f"{part} has no operation {step}"))
        if problems:
            raise ProblemsError(problems)
        handover.version += 1
        handover.save(update_fields=["version"])
        return ByHand.objects.create(
            record=handover.record,
            parent=parent,
            alternate=alternate,
            item=item,
            quantity=quantity,
            unit=said["unit"],
            issue_at=step,
            reason=said["reason"].strip(),
            handover=handover,
            by=str(user),
        )


def _is_theirs(handover_id: int, item: str) -> bool:
    """Whether they have an item of this code. Raises MissingError, and TallyError where they cannot be asked."""
    handover = Handover.objects.filter(pk=handover_id).first()
    if handover is None:
        raise MissingError("This handover is no longer there.")
    if not item or handover.theirs is None:
        return False
    if any((t.kind, t.key) == ("items", item) for t in read_from(handover.theirs).things):
        return True
    try:
        return any(t.key == item for t in book_of(handover.record).find(item))
    except CallFailed as error:
        raise TallyError(f"{handover.record} could not be asked for {item}: {error}.") from None


def keep_by_hand(user, handover_id: int, row_key: str, reason: str) -> ByHand:
    """Leave a line that only they have to them, from now on. Raises ProblemsError, MissingError, TallyError, and Refused."""
    with writing(user, "handover"):
        handover = open_one(handover_id)
        if not reason.strip():
            raise ProblemsError([Problem("reason", "say why production needs it")])
        look = look_at(handover)
        kind, row = look.rows.get(row_key, ("", None))
        there = row.records[2] if row is not None else None
        if (
            row is None
            or there is None
            or kind != "lines"
            or row.records[1] is not None
            or not look.theirs.keys.get(id(there))
            or not there.part
        ):
            raise TallyError("Only a line that stands over there alone can be kept by hand.")
        handover.version += 1
        handover.save(update_fields=["version"])
        names = row.names
        return ByHand.objects.create(
            record=handover.record,
            parent=Part.objects.get(number=names["parent"]),
            alternate=names["alternate"],
            item=there.part,
            quantity=there.quantity or 0,
            unit=there.unit or "ea",
            issue_at=there.issue_at,
            reason=reason.strip(),
            known_as=look.theirs.keys[id(there)],
            handover=handover,
            by=str(user),
        )


def let_go_by_hand(user, handover_id: int, by_hand_id: int) -> None:
    """Keep a line by hand no longer: one that was not written yet is not written, another is compared like any. Raises as above."""
    with writing(user, "handover"):
        handover = open_one(handover_id)
        found = ByHand.objects.filter(pk=by_hand_id, record=handover.record).first()
        if found is None:
            raise MissingError("This line is not kept by hand any more.")
        found.delete()
        handover.version += 1
        handover.save(update_fields=["version"])
