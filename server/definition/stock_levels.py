"""What is there of parts, and in which amounts more can be ordered."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from django.db.models import Sum
from tally_core.structure.to_order import order_step

from definition.models.parts import OpenOrder, Part, StockMove

__all__ = ["Level", "step_of", "stock_levels"]


@dataclass(slots=True)
class Level:
    """One part: on hand and still to come, in its stock unit, and how it is ordered.

    ``undated`` is still to come without a day: it is counted where no day matters.
    """

    on_hand: Decimal = Decimal(0)
    arriving: list[tuple[date, Decimal]] = field(default_factory=list)
    # Every open order with its number and day, those without a day last.
    orders: list[tuple[str, date | None, Decimal]] = field(default_factory=list)
    undated: Decimal = Decimal(0)
    minimum: Decimal | None = None
    step: Decimal | None = None

    def arriving_by(self, day: date) -> Decimal:
        """What comes in up to a day, itself included."""
        return sum((quantity for due, quantity in self.arriving if due <= day), Decimal(0))

    @property
    def on_order(self) -> Decimal:
        """All that is still to come."""
        return self.undated + sum((quantity for _, quantity in self.arriving), Decimal(0))


def step_of(part: Part) -> Decimal | None:
    """The amount of which only multiples of a part can be ordered, in its stock unit."""
    return order_step(
        part.unit, part.buying_unit, part.stock_per_buying_unit, part.order_multiple, bool(part.whole_only)
    )


def stock_levels(parts: Iterable[Part]) -> dict[int, Level]:
    """Levels by the keys of parts; three queries, however many they are."""
    levels = {p.pk: Level(minimum=p.order_minimum, step=step_of(p)) for p in parts}
    moves = StockMove.objects.filter(part__in=list(levels)).order_by().values_list("part")
    for key, total in moves.annotate(total=Sum("quantity")):
        levels[key].on_hand = total
    orders = OpenOrder.objects.filter(part__in=list(levels))
    for key, order, due, quantity in orders.values_list("part", "order", "due_on", "quantity"):
        levels[key].orders.append((order, due, quantity))
        if due is None:
            levels[key].undated += quantity
        else:
            levels[key].arriving.append((due, quantity))
    return levels
