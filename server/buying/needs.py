"""Rule B1: what the builds of a plan take of every bought part, less what is there, as a sum that opens."""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_CEILING, Decimal
from typing import Any, NamedTuple

import numpy as np
from definition.among import among
from definition.models.parts import Part
from definition.stock_levels import Level, levels_where_any
from loading.loaded import Loaded
from loading.reads import load_products, structure_of
from tally_core.basics.errors import Problem, ProblemsError, TallyError, UnitError
from tally_core.basics.rounding import decimal_of
from tally_core.basics.units import factor, is_count
from tally_core.cost.answers import Basis
from tally_core.structure.net_needs import net_needs
from tally_core.structure.structure import Structure

from buying.limits import Limits
from buying.models import BuyPlan, PlanBuild

__all__ = ["NeedOf", "buying_unit", "each_for_other", "in_buying_units", "needs_of", "whole_units"]

_SIX = Decimal("0.000001")
_NOTHING = Decimal(0)
#: What is told of a part that is bought.
_TOLD = ("number", "unit", "buying_unit", "stock_per_buying_unit", "whole_only")
#: Lines of all products together times groups of builds: some seconds of work.
_MOST_WORK = 2_000_000


@dataclass(slots=True)
class NeedOf:
    """What is to be bought of a part, and how it came to that. Quantities in the stock unit but ``quantity``, in the buying unit."""

    part: Part
    unit: str
    # What each group of builds asks for: its words, its day, how much.
    asked: list[tuple[str, date | None, Decimal]] = field(default_factory=list)
    stock: Decimal = Decimal(0)
    # Open orders that serve it: their number, day and how much.
    orders: list[tuple[str, date | None, Decimal]] = field(default_factory=list)
    # By day: what is left to buy.
    left: list[tuple[date | None, Decimal]] = field(default_factory=list)

    def plain(self) -> dict[str, Any]:
        """As it is kept with the plan."""
        return {
            "unit": self.unit,
            "buying_unit": buying_unit(self.part),
            "per_buying_unit": f"{1 / (in_buying_units(self.part, self.unit) or Decimal(1)):f}",
            "asked": [[words, _iso(day), f"{q:f}"] for words, day, q in self.asked],
            "stock": f"{self.stock:f}",
            "orders": [[order, _iso(day), f"{q:f}"] for order, day, q in self.orders],
            "left": [[_iso(day), f"{q:f}"] for day, q in self.left],
        }


def _iso(day: date | None) -> str | None:
    return day.isoformat() if day else None


def buying_unit(part: Part) -> str:
    """The unit in which a part is bought."""
    return part.buying_unit or part.unit


def whole_units(part: Part) -> bool:
    """Whether a part is bought in whole units: what is counted, or comes in cases, rolls and the like."""
    unit = buying_unit(part)
    if unit == part.unit:
        return bool(part.whole_only)
    try:
        return is_count(unit)
    except UnitError:
        # No unit of measure: the name of what it comes in.
        return True


def in_buying_units(part: Part, unit: str) -> Decimal | None:
    """How many buying units of a part one ``unit`` is; None where the two do not convert."""
    bought = buying_unit(part)
    if unit == bought:
        return Decimal(1)
    try:
        if part.stock_per_buying_unit:
            return factor(unit, part.unit) / part.stock_per_buying_unit
        return factor(unit, bought)
    except UnitError:
        return None


def each_for_other(part: Part, instead_of: Part) -> Decimal | None:
    """How many buying units of another part one of this part's replaces: the same amount in stock. None where the two do not convert."""
    try:
        return _in_stock(part) * factor(part.unit, instead_of.unit) / _in_stock(instead_of)
    except UnitError:
        return None


def _in_stock(part: Part) -> Decimal:
    """One buying unit in the part's stock unit. Raises UnitError."""
    return part.stock_per_buying_unit or factor(buying_unit(part), part.unit)


def needs_of(plan: BuyPlan, limits: Limits, day: date) -> list[NeedOf]:
    """What is to be bought for a plan, by part number.

    Builds with the same day and options are taken together (N1), earlier days first: what is on hand, and what open orders bring by
    then, goes to them first. Raises ProblemsError that places what is wrong at its build.
    """
    builds = list(plan.builds.select_related("part"))
    if not builds:
        raise TallyError("Say first what is to be built.")
    parts = list({b.part_id: b.part for b in builds}.values())
    loaded = load_products(parts, Basis(day, None, (), limits.drafts))
    groups: dict[tuple[date, tuple[str, ...]], list[PlanBuild]] = defaultdict(list)
    for build in builds:
        groups[build.by or date.max, tuple(sorted(build.options))].append(build)
    if len(loaded.lines) * len(groups) > _MOST_WORK:
        raise TallyError(f"These products have {len(loaded.lines):,} lines together; plan fewer days and options at once.")
    there = _There(loaded, levels_where_any(loaded.part_ids.tolist()), limits)
    found: dict[int, list[_Asked]] = defaultdict(list)
    structures: dict[tuple[str, ...], Structure] = {}
    for (by, options), group in sorted(groups.items()):
        if options not in structures:
            structures[options] = _structure(loaded, options, group)
        _one_group(loaded, structures[options], there, found, by if by < date.max else None, options, group)
    # Part rows are wide, and a plan may need thousands.
    held = Part.objects.only(*_TOLD).filter(pk__in=among(loaded.part_ids[list(found)].tolist()))
    row_of = dict(zip(loaded.part_ids.tolist(), range(len(loaded.part_ids)), strict=True))
    return [_need(part, found[row_of[part.pk]]) for part in sorted(held, key=lambda p: p.number)]


def _need(part: Part, asked: list["_Asked"]) -> NeedOf:
    return NeedOf(
        part,
        part.unit,
        [(a.words, a.by, a.quantity) for a in asked],
        sum((a.from_stock for a in asked), Decimal(0)),
        [order for a in asked for order in a.from_orders],
        [(a.by, a.left) for a in asked if a.left],
    )


class _Asked(NamedTuple):
    """What one group of builds asks for of a part, what of it is there, and what is left to buy."""

    words: str
    by: date | None
    quantity: Decimal
    from_stock: Decimal
    from_orders: list[tuple[str, date | None, Decimal]]
    left: Decimal


def _structure(loaded: Loaded, options: tuple[str, ...], group: list[PlanBuild]) -> Structure:
    try:
        return structure_of(loaded, options)
    except TallyError as error:
        raise ProblemsError([Problem("builds", f"{group[0].part.number}: {error}")]) from None


def _one_group(
    loaded: Loaded,
    structure: Structure,
    there: "_There",
    found: dict[int, list[_Asked]],
    by: date | None,
    options: tuple[str, ...],
    group: list[PlanBuild],
) -> None:
    wanted = np.zeros(len(loaded.part_ids))
    for build in group:
        top = loaded.row(build.part_id)
        if np.isnan(loaded.parts.batch[top]):
            raise ProblemsError([Problem("builds", f"{build.part.number} has no build sheet in force on {loaded.day}")])
        wanted[top] += float(build.quantity)
    needs = net_needs(structure, wanted, there.free(by))
    words = " and ".join(f"{b.quantity.normalize():f} × {b.part.number}" for b in group)
    words += f" with {', '.join(options)}" if options else ""
    asked = needs.gross - wanted
    rows = np.flatnonzero((asked > 0) & ((needs.taken > 0) | (needs.lacks > 0)))
    columns = (rows, asked[rows], needs.taken[rows], needs.lacks[rows], np.isnan(loaded.parts.batch[rows]))
    # Python's own numbers: thousands of rows are told one by one.
    for row, quantity, taken, lacks, bought in zip(*(c.tolist() for c in columns), strict=True):
        from_stock, from_orders = there.take(row, decimal_of(taken), by) if taken else (_NOTHING, [])
        # A made part that is covered is of no matter to a buyer.
        if lacks or (bought and taken):
            told = decimal_of(quantity)
            found[row].append(_Asked(words, by, told, from_stock, from_orders, told if lacks == quantity else decimal_of(lacks)))


class _There:
    """What is free and coming, less what was given away already."""

    def __init__(self, loaded: Loaded, levels: dict[int, Level], limits: Limits) -> None:
        at = {key: row for row, key in enumerate(loaded.part_ids.tolist()) if key in levels}
        self.count = len(loaded.part_ids)
        # By row, of parts of which there is any.
        self.stock = {row: levels[key].free if limits.use_stock else _NOTHING for key, row in at.items()}
        self.orders: dict[int, list[list[Any]]] = {
            row: [list(o) for o in levels[key].coming()] if limits.use_orders else [] for key, row in at.items()
        }

    def free(self, by: date | None) -> np.ndarray:
        """Over parts: what can be had of it by a day."""
        free = np.zeros(self.count)
        for row, stock in self.stock.items():
            free[row] = float(stock + sum(q for _, due, q in self.orders[row] if _in_time(due, by)))
        return free

    def take(self, row: int, quantity: Decimal, by: date | None) -> tuple[Decimal, list[tuple[str, date | None, Decimal]]]:
        """Give it away, from stock first, then from orders in the order of their days."""
        from_stock = min(quantity, self.stock[row])
        self.stock[row] -= from_stock
        quantity -= from_stock
        taken = []
        for order in self.orders[row]:
            if quantity > 0 and order[2] > 0 and _in_time(order[1], by):
                some = min(quantity, order[2])
                order[2] -= some
                quantity -= some
                taken.append((order[0], order[1], some))
        return from_stock, taken


def _in_time(due: date | None, by: date | None) -> bool:
    """An order without a day serves only what has none."""
    return by is None or (due is not None and due <= by)


def in_whole(quantity: Decimal) -> Decimal:
    """Rounded up to six decimals, as quantities leave."""
    return quantity.quantize(_SIX, ROUND_CEILING)
