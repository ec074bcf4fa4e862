"""Say that the stock of a part is told apart by lot or by serial number, or no longer."""

from decimal import Decimal
from typing import Any

from definition.models.parts import Lot, Part, StockWorth, Tracing
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.basics.kinds import PART_KIND

from verbs.contract import writing
from verbs.parts.move_lots import fresh_codes

__all__ = ["BY", "trace_part"]

BY = ("", "lot", "serial")


def trace_part(user: Any, number: str, by: str) -> Part:
    """``by``: lot, serial, or nothing. What is there already becomes lots called "before". Lots that were stay readable.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "parts"):
        part = Part.objects.select_for_update(no_key=True).filter(number=number).first()
        if part is None:
            raise MissingError(f"Part {number} is not known.")
        if by not in BY:
            raise ProblemsError([Problem("by", "by lot, by serial, or not at all")])
        if by and not PART_KIND[part.kind].stocked:
            raise ProblemsError([Problem("by", f"{part.number} is a {part.kind} and is never stocked")])
        if by == "serial" and not part.whole_only:
            raise ProblemsError([Problem("by", f"{part.number} is not counted in whole units; only lots tell it apart")])
        held = Tracing.objects.filter(part=part).first()
        if (held.by if held else "") == by:
            return part
        if held is not None:
            held._history_user = user  # type: ignore[attr-defined]
            held.delete()
            Lot.objects.filter(part=part).update(quantity=0)
        if by:
            row = Tracing(part=part, by=by, stated_by=str(user))
            row._history_user = user  # type: ignore[attr-defined]
            row.save()
            worth = StockWorth.objects.filter(part=part).first()
            there = worth.quantity if worth else Decimal(0)
            if there > 0:
                known = set(Lot.objects.filter(part=part).values_list("code", flat=True))
                origin = "before" if "before" not in known else f"before {row.since:%Y%m%d%H%M}"
                Lot.objects.bulk_create(Lot(part=part, code=c, quantity=q) for c, q in fresh_codes(part, by, origin, there, known))
        return part
