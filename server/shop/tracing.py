"""What a lot or a unit was made of, and where it went: the structure as built, read in both directions."""

from decimal import Decimal
from typing import Any

from definition.models.parts import Lot, LotMove, Part, Tracing
from definition.records import plain_decimal
from django.db.models import QuerySet
from django.utils.timezone import localtime
from tally_core.basics.errors import MissingError

from shop.models import Posting

__all__ = ["as_built", "lots_of"]

_MOST = 500


def lots_of(part: Part) -> dict[str, Any]:
    """How a part is traced, and its lots or units, the newest first: what is there of each."""
    held = Tracing.objects.filter(part=part).first()
    found = Lot.objects.filter(part=part).order_by("-id")
    return {
        "part": part.number,
        "unit": part.unit,
        "by": held.by if held else "",
        "count": found.count(),
        "lots": [{"code": x.code, "quantity": plain_decimal(x.quantity) or "0"} for x in found[:_MOST]],
    }


def as_built(part: Part, code: str) -> dict[str, Any]:
    """One lot or unit: how it came, the lots that went into the orders it came from, and what came of the orders that took it.

    An order does not tell which of its units took which unit of a component: what went into the order may be in any of them.
    Raises MissingError. A fixed number of queries.
    """
    lot = Lot.objects.filter(part=part, code=code).first()
    if lot is None:
        raise MissingError(f"{part.number} has no lot or unit {code}.")
    moves = list(lot.moves.select_related("move__posting__order"))
    made_by = {_order(m) for m in moves if m.quantity > 0 and _kind(m) == "receipt"} - {None}
    taken_by = {_order(m) for m in moves if _kind(m) == "issue"} - {None}
    return {
        "part": part.number,
        "description": part.description,
        "unit": part.unit,
        "code": code,
        "quantity": plain_decimal(lot.quantity) or "0",
        "moves": [
            {
                "at": localtime(m.move.made_at).isoformat(timespec="minutes"),
                "quantity": plain_decimal(m.quantity) or "0",
                "reason": m.move.reason,
                "by": m.move.made_by,
                "order": o.number if (o := _of_order(m)) else "",
                "order_id": o.pk if o else None,
            }
            for m in moves
        ],
        "made_of": _lots(LotMove.objects.filter(move__posting__order__in=made_by, move__posting__kind="issue"), -1),
        "went_into": _lots(LotMove.objects.filter(move__posting__order__in=taken_by, move__posting__kind="receipt"), 1),
    }


def _posting(row: LotMove) -> Posting | None:
    return getattr(row.move, "posting", None)


def _kind(row: LotMove) -> str:
    posting = _posting(row)
    return posting.kind if posting else ""


def _of_order(row: LotMove) -> Any:
    posting = _posting(row)
    return posting.order if posting else None


def _order(row: LotMove) -> int | None:
    posting = _posting(row)
    return posting.order_id if posting else None


def _lots(found: QuerySet[LotMove], sign: int) -> list[dict[str, Any]]:
    """The lots of some moves with how much of each, by part; what came back is taken off."""
    sums: dict[tuple[str, str, str, str, int], Decimal] = {}
    for m in found.select_related("lot__part", "move__posting__order")[: 20 * _MOST]:
        order = _of_order(m)
        key = (m.lot.part.number, m.lot.part.description, m.lot.code, order.number, order.pk)
        sums[key] = sums.get(key, Decimal(0)) + sign * m.quantity
    return [
        {
            "part": part,
            "description": description,
            "code": code,
            "order": number,
            "order_id": key,
            "quantity": plain_decimal(quantity) or "0",
        }
        for (part, description, code, number, key), quantity in sorted(sums.items())
        if quantity > 0
    ][:_MOST]
