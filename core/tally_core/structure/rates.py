"""The rates of a work center and the price of a part on a day."""

from dataclasses import fields, replace
from datetime import date
from decimal import Decimal

from ..stated.definition import Part, RateChange, WorkCenter

__all__ = ["RATES", "center_on", "price_on", "rates_since"]

#: What may change on a day.
RATES = tuple(f.name for f in fields(RateChange) if f.name != "first_day")


def rates_since(center: WorkCenter, day: date) -> dict[str, date]:
    """For each rate that a change has set by a day: the first day of the last such change.

    >>> from decimal import Decimal as D
    >>> laser = WorkCenter("LASER", labor_rate=D(30), rates=[RateChange(date(2027, 1, 1), labor_rate=D(32))])
    >>> rates_since(laser, date(2026, 12, 31)), rates_since(laser, date(2027, 1, 1))
    ({}, {'labor_rate': datetime.date(2027, 1, 1)})
    """
    changes = sorted((c for c in center.rates if c.first_day <= day), key=lambda c: c.first_day)
    return {name: change.first_day for change in changes for name in RATES if getattr(change, name) is not None}


def center_on(center: WorkCenter, day: date) -> WorkCenter:
    """The work center with the rates that hold on a day (the day of the basis)."""
    by_day = {change.first_day: change for change in center.rates}
    since = rates_since(center, day)
    return replace(center, **{name: getattr(by_day[first], name) for name, first in since.items()}) if since else center


def price_on(part: Part, day: date) -> Decimal | None:
    """What a unit of a part costs on a day: the last price that holds by then, or the one it began with.

    >>> from decimal import Decimal as D
    >>> from tally_core.stated.definition import PriceChange
    >>> nut = Part("NUT", unit_cost=D(2), prices=[PriceChange(date(2027, 1, 1), D(3))])
    >>> price_on(nut, date(2026, 12, 31)), price_on(nut, date(2027, 1, 1))
    (Decimal('2'), Decimal('3'))
    """
    held = [change for change in part.prices if change.first_day <= day]
    return max(held, key=lambda change: change.first_day).unit_cost if held else part.unit_cost
