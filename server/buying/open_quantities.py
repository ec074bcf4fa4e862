"""What placed orders still bring stands with the parts as open orders, where stock, lead times and plans read it."""

from collections import defaultdict
from decimal import Decimal
from typing import Any

from definition.models.parts import OpenOrder

from buying.models import PurchaseOrder

__all__ = ["keep_open_quantities"]


def keep_open_quantities(order: PurchaseOrder, user: Any) -> None:
    """Bring the open orders of an order's parts up to date, within the caller's transaction."""
    wanted: dict[int, tuple[Decimal, Any]] = {}
    by_part: dict[int, list] = defaultdict(list)
    for line in order.lines.all():
        by_part[line.part_id].append(line)
    if order.state == "placed":
        for part, lines in by_part.items():
            open_lines = [line for line in lines if line.to_come]
            left = sum((line.to_come * line.stock_each for line in open_lines), Decimal(0))
            if left:
                days = [line.due_on for line in open_lines if line.due_on]
                # The part is not covered before the last of it is there.
                wanted[part] = (round(left, 9), max(days) if len(days) == len(open_lines) else None)
    for row in OpenOrder.objects.select_for_update().filter(order=order.number, part__in=by_part):
        if row.part_id not in wanted:
            row.delete()
            continue
        row.quantity, row.due_on = wanted.pop(row.part_id)
        row.added_by, row._history_user = str(user), user  # type: ignore[attr-defined]
        row.save()
    for part, (left, due) in wanted.items():
        row = OpenOrder(part_id=part, order=order.number, quantity=left, due_on=due, kept=True, added_by=str(user))
        row._history_user = user  # type: ignore[attr-defined]
        row.save()
