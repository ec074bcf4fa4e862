"""What stock is worth on a day, and its moves as a list for the accountant: both read off the ledger."""

from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from typing import Any

from definition.models.parts import Part, StockMove
from definition.records import plain_decimal
from django.db.models import Sum
from django.utils.timezone import localtime
from formats.flat import Cell, Column, list_csv, list_workbook
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["MOVE_COLUMNS", "moves_file", "stock_worth"]

_MOST_MOVES = 200_000
#: What a list of moves says.
MOVE_COLUMNS = [
    Column("Day", False),
    Column("Part", False),
    Column("Description", False),
    Column("Quantity", True),
    Column("Unit", False),
    Column("Value", True),
    Column("Beyond standard", True),
    Column("Why", False),
    Column("By", False),
    Column("Order", False),
]


def stock_worth(day: date) -> dict[str, Any]:
    """Every part of which something was there at the end of a day, with what it was worth. Two queries."""
    moves = StockMove.objects.filter(made_at__date__lte=day).order_by().values_list("part")
    sums = {
        key: (quantity, value) for key, quantity, value in moves.annotate(quantity=Sum("quantity"), value=Sum("value")) if quantity or value
    }
    rows = [
        {
            "part": p.number,
            "description": p.description,
            "kind": p.kind,
            "part_class": p.part_class,
            "unit": p.unit,
            "quantity": plain_decimal(sums[p.pk][0]) or "0",
            "value": f"{sums[p.pk][1]:f}",
            "mean": f"{sums[p.pk][1] / sums[p.pk][0]:.6f}" if sums[p.pk][0] else None,
        }
        for p in Part.objects.filter(pk__in=list(sums)).order_by("number")
    ]
    return {"day": day.isoformat(), "total": f"{sum((v for _, v in sums.values()), Decimal(0)):f}", "rows": rows}


def moves_file(first: date, last: date, shape: str) -> bytes:
    """The moves of some days, both included, as CSV or workbook. Raises ProblemsError for days the wrong way round, or too many moves."""
    if last < first:
        raise ProblemsError([Problem("last", "the last day is before the first")])
    found = StockMove.objects.filter(made_at__date__range=(first, last)).order_by("made_at", "id")
    if found.count() > _MOST_MOVES:
        raise ProblemsError([Problem("last", f"more than {_MOST_MOVES:,} moves; ask for fewer days")])
    rows = list(_rows(found))
    if shape == "xlsx":
        return list_workbook(f"Stock {first} to {last}", MOVE_COLUMNS, rows)
    return list_csv(MOVE_COLUMNS, rows).encode("utf-8-sig")


def _rows(found: Any) -> Iterator[list[Cell]]:
    for m in found.select_related("part", "posting__order"):
        posting = getattr(m, "posting", None)
        yield [
            localtime(m.made_at).strftime("%Y-%m-%d %H:%M"),
            m.part.number,
            m.part.description,
            float(m.quantity),
            m.part.unit,
            float(m.value),
            float(m.beyond),
            m.reason,
            m.made_by,
            posting.order.number if posting else "",
        ]
