"""What is to be ordered of a need: less what is there, in the amounts that can be bought (rules B1 and B2)."""

from collections.abc import Sequence
from datetime import date
from decimal import ROUND_CEILING, Decimal
from math import gcd

from ..basics.errors import UnitError
from ..basics.units import factor, is_count

__all__ = ["covered_on", "order_step", "to_order"]

_DUST = Decimal("1e-9")


def order_step(
    unit: str, buying_unit: str | None, stock_per_buying_unit: Decimal | None, multiple: Decimal | None, whole: bool
) -> Decimal | None:
    """The amount of which only multiples can be ordered, in stock units; None where any amount can.

    Whole cases where the part's own buying unit says what one holds, whole dozens where that is how it is bought, whole units
    where it is counted in them, and the order multiple: what is a multiple of all of these.

    >>> order_step("m", "roll", Decimal(50), None, False), order_step("ea", "dozen", None, Decimal(8), True)
    (Decimal('50'), Decimal('24'))
    """
    steps = [Decimal(1)] if whole else []
    if stock_per_buying_unit is not None:
        steps.append(stock_per_buying_unit)
    elif buying_unit is not None and buying_unit != unit:
        try:
            if is_count(buying_unit):
                steps.append(factor(buying_unit, unit))
        except UnitError:
            # A buying unit that cannot be turned is a finding of its own, and counts as none here.
            pass
    if multiple is not None:
        steps.append(multiple)
    return _common(steps) if steps else None


def _common(steps: Sequence[Decimal]) -> Decimal:
    """The smallest amount that is a whole number of each."""
    places = max(-int(step.normalize().as_tuple().exponent) for step in steps)
    scale = Decimal(10) ** max(places, 0)
    common = 1
    for step in (int(step * scale) for step in steps):
        common = common * step // gcd(common, step)
    return (common / scale).normalize() + 0


def to_order(need: Decimal, there: Decimal, minimum: Decimal | None, step: Decimal | None) -> Decimal:
    """What to order in stock units: what is short, at least the minimum, in whole steps; nothing where nothing is short.

    >>> to_order(Decimal(430), Decimal(100), None, Decimal(50)), to_order(Decimal(5), Decimal(5), Decimal(100), None)
    (Decimal('350'), Decimal('0'))
    """
    short = need - there
    if short <= _DUST:
        return Decimal(0)
    wanted = max(short, minimum or Decimal(0))
    if step is None:
        return wanted
    return ((wanted - _DUST) / step).to_integral_value(ROUND_CEILING) * step


def covered_on(need: Decimal, on_hand: Decimal, arriving: Sequence[tuple[date, Decimal]]) -> date | None:
    """The day from which a need is covered by what is on hand and what comes in; ``date.min`` for stock alone, None for never.

    >>> covered_on(Decimal(7), Decimal(5), [(date(2027, 2, 1), Decimal(1)), (date(2027, 1, 1), Decimal(1))])
    datetime.date(2027, 2, 1)
    """
    if need <= on_hand + _DUST:
        return date.min
    for day, quantity in sorted(arriving):
        on_hand += quantity
        if need <= on_hand + _DUST:
            return day
    return None
