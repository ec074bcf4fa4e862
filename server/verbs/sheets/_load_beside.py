"""What a bundle brings with its parts that is held beside their rows: manufacturers' numbers, and what was counted."""

from decimal import Decimal
from typing import Any

from definition.models.parts import MakerNumber, Part, StockWorth
from partners.naming import partners_named
from simple_history.utils import bulk_create_with_history
from tally_core.stated import definition as core

from verbs.parts.post_stock import StockPost, post_stock

__all__ = ["count_stock", "load_maker_numbers"]


def load_maker_numbers(wanted: dict[str, list[core.MakerNumber]], parts: dict[str, int], reason: str, user: Any) -> int:
    """Put the lists of some parts, by number, in the place of those they have; returns how many parts that changed."""
    named = partners_named([x.maker for listed in wanted.values() for x in listed], "maker", user, reason)
    held: dict[int, list[MakerNumber]] = {}
    for row in MakerNumber.objects.filter(part__in=[parts[number] for number in wanted]):
        held.setdefault(row.part_id, []).append(row)
    fresh: list[MakerNumber] = []
    changed = 0
    for number, listed in wanted.items():
        key = parts[number]
        stated = [(named.get(x.maker) or None, x.number.strip(), x.package.strip()) for x in listed]
        before = held.get(key, [])
        if stated == [(row.maker_id, row.number, row.package) for row in before]:
            continue
        changed += 1
        for row in before:
            row.delete()
        fresh += [
            MakerNumber(part_id=key, rank=rank, maker_id=maker, number=text, package=package)
            for rank, (maker, text, package) in enumerate(stated, 1)
        ]
    bulk_create_with_history(fresh, MakerNumber, batch_size=2000, default_user=user, default_change_reason=reason)
    return changed


def count_stock(counted: dict[str, Decimal], parts: dict[str, int], reason: str, user: Any) -> int:
    """Move stock to what was counted of some parts, by number; returns of how many it was otherwise.

    The parts' rows are held, so that nothing is moved between the count and the move.
    """
    keys = [parts[number] for number in counted]
    list(Part.objects.select_for_update(no_key=True).filter(pk__in=keys).order_by("pk").values_list("pk"))
    there = dict(StockWorth.objects.filter(part__in=keys).values_list("part", "quantity"))
    posts = [
        StockPost(parts[number], delta, f"counted: {reason}", place=f"{number}.on_hand")
        for number, quantity in counted.items()
        if (delta := quantity - there.get(parts[number], Decimal(0)))
    ]
    return len(post_stock(str(user or ""), posts))
