"""What is free of parts: on hand, less what released orders still take."""

from collections.abc import Iterable
from decimal import Decimal

from definition.among import among
from definition.models.parts import StockMove
from django.db.models import F, Sum

from shop.models import Component

__all__ = ["Free", "free_of", "reserved"]

#: Of one part: on hand, and what of it is spoken for.
Free = tuple[Decimal, Decimal]


def reserved(parts: Iterable[int], but: int | None = None) -> dict[int, Decimal]:
    """By part: what released and running orders still take of it. One query. ``but``: an order whose own needs do not count."""
    rows = Component.objects.filter(
        part__in=among(parts), order__state__in=("released", "running"), byproduct=False, customer_supplied=False
    ).exclude(order=but)
    open_rows = rows.filter(required__gt=F("issued") + F("stood_in")).order_by().values_list("part")
    return dict(open_rows.annotate(left=Sum(F("required") - F("issued") - F("stood_in"))))


def free_of(parts: Iterable[int], but: int | None = None) -> dict[int, Free]:
    """By part: what is on hand, and what of it is spoken for; two queries."""
    keys = list(parts)
    moves = StockMove.objects.filter(part__in=keys).order_by().values_list("part")
    there = dict(moves.annotate(total=Sum("quantity")))
    taken = reserved(keys, but)
    return {key: (there.get(key, Decimal(0)), taken.get(key, Decimal(0))) for key in keys}
