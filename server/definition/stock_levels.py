"""What is there of parts, and in which amounts more can be ordered."""

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from django.db.models import F, Sum
from tally_core.structure.to_order import order_step

from definition.among import among
from definition.models.parts import OpenOrder, Part, StockMove

__all__ = ["RESERVATIONS", "Level", "levels_where_any", "spoken_for", "step_of", "stock_levels"]

#: What takes of stock before anything new does: by the keys of parts how much is spoken for. A subject that reserves adds its own.
RESERVATIONS: list[Callable[[Iterable[int]], dict[int, Decimal]]] = []
_NONE = Decimal(0)


def spoken_for(parts: Iterable[int]) -> dict[int, Decimal]:
    """By the keys of parts what of them is spoken for, whether or not it is there; a query for each that reserves."""
    keys = list(parts)
    found: dict[int, Decimal] = {}
    for reserved in RESERVATIONS:
        for key, quantity in reserved(keys).items():
            found[key] = found.get(key, _NONE) + quantity
    return found


@dataclass(slots=True)
class Level:
    """One part: on hand, spoken for and still to come, in its stock unit, and how it is ordered."""

    on_hand: Decimal = _NONE
    spoken_for: Decimal = _NONE
    # Every open order with its number and day, the soonest first, those without a day last.
    orders: list[tuple[str, date | None, Decimal]] = field(default_factory=list)
    minimum: Decimal | None = None
    step: Decimal | None = None

    @property
    def free(self) -> Decimal:
        """What is on hand and not spoken for."""
        return max(self.on_hand - self.spoken_for, _NONE)

    @property
    def on_order(self) -> Decimal:
        """All that is still to come."""
        return sum((quantity for *_, quantity in self.orders), _NONE)

    def coming(self) -> list[tuple[str, date | None, Decimal]]:
        """What is still to come and not spoken for: what is on hand goes first to whom it was promised, then the soonest orders do."""
        lacking = max(self.spoken_for - max(self.on_hand, _NONE), _NONE)
        found = []
        for order, due, quantity in self.orders:
            left = max(quantity - lacking, _NONE)
            lacking -= quantity - left
            if left:
                found.append((order, due, left))
        return found

    def arriving(self) -> list[tuple[date, Decimal]]:
        """What comes on a day; without one it is counted where no day matters."""
        return [(due, quantity) for _, due, quantity in self.coming() if due is not None]

    def arriving_by(self, day: date) -> Decimal:
        """What comes in up to a day, itself included."""
        return sum((quantity for due, quantity in self.arriving() if due <= day), _NONE)

    def to_be_had(self) -> Decimal:
        """All that is free and all that is coming."""
        return self.free + sum((quantity for *_, quantity in self.coming()), _NONE)


def step_of(part: Part) -> Decimal | None:
    """The amount of which only multiples of a part can be ordered, in its stock unit."""
    return order_step(part.unit, part.buying_unit, part.stock_per_buying_unit, part.order_multiple, bool(part.whole_only))


def stock_levels(parts: Iterable[Part]) -> dict[int, Level]:
    """Levels by the keys of parts; a fixed number of queries, however many they are."""
    levels = {p.pk: Level(minimum=p.order_minimum, step=step_of(p)) for p in parts}
    _lay_on(levels, list(levels))
    return levels


def levels_where_any(keys: Iterable[int]) -> dict[int, Level]:
    """Levels of those of some parts of which anything is there, promised or to come; how they are ordered is not read."""
    levels: dict[int, Level] = defaultdict(Level)
    _lay_on(levels, list(keys))
    return dict(levels)


def _lay_on(levels: dict[int, Level], keys: list[int]) -> None:
    moves = StockMove.objects.filter(part__in=among(keys)).order_by().values_list("part")
    for key, total in moves.annotate(total=Sum("quantity")):
        levels[key].on_hand = total
    for key, quantity in spoken_for(keys).items():
        levels[key].spoken_for = quantity
    orders = OpenOrder.objects.filter(part__in=among(keys)).order_by(F("due_on").asc(nulls_last=True), "order")
    for key, order, due, quantity in orders.values_list("part", "order", "due_on", "quantity"):
        levels[key].orders.append((order, due, quantity))
