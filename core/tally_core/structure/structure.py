"""A definition under a basis: which lines count, what they take per lot, and the order of the parts.

Rules U1 to U8 are carried out here once, over whole columns, so that needs and costs only multiply and add.
"""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date

import numpy as np

from ..basics.errors import LoopError, TallyError, UnitError
from ..basics.kinds import GIVES_BACK, NAMES_PART, PHANTOM, TAKES_SHEET
from ..basics.ordering import find_loop, low_level_codes, reachable
from ..basics.units import FACTORS, SYMBOLS, dimension
from .options import take_away
from .tables import LineTable, OperationTable, PartTable

__all__ = ["Structure", "build_structure", "starts_per_good_unit"]


@dataclass(slots=True)
class Structure:
    """What counts under a basis. Arrays over *usages*: the lines that count, sorted by the level of their parent.

    For a lot of L, a usage takes net ``net_per_unit * L + net_per_lot`` and gross
    ``gross_per_unit * L + gross_per_lot`` (rules U2, U3), in the child's stock unit. For a by-product the gross is
    what returns (U4) and the net is zero.
    """

    parts: PartTable
    lines: LineTable
    operations: OperationTable
    level: np.ndarray  # int32 over parts: low-level code; phantoms count as a level here
    order: np.ndarray  # int32: part rows by level
    place: np.ndarray  # int32: the position of each part row in ``order``
    level_start: np.ndarray  # where each level starts in ``order``, the end included
    line: np.ndarray  # int32 over usages: row in ``lines``
    parent: np.ndarray
    child: np.ndarray
    byproduct: np.ndarray  # bool
    free: np.ndarray  # bool, customer-supplied
    quantity: np.ndarray  # in the line's unit, after options
    factor: np.ndarray  # line unit → stock unit
    net_per_unit: np.ndarray
    net_per_lot: np.ndarray
    gross_per_unit: np.ndarray
    gross_per_lot: np.ndarray
    usage_start: np.ndarray  # int64 over positions in ``order``: where a part's usages start, the end included
    starts: np.ndarray  # over operations: S_k for one good unit (U1)
    first_operation: np.ndarray  # int32 over parts, -1 when none

    def net(self, lots: np.ndarray) -> np.ndarray:
        """Over usages: net, for one unit of the parent out of its lot; ``lots`` over parts."""
        return self._by_lot(self.net_per_unit, self.net_per_lot, lots)

    def gross(self, lots: np.ndarray) -> np.ndarray:
        """Over usages: gross, for one unit of the parent out of its lot; ``lots`` over parts."""
        return self._by_lot(self.gross_per_unit, self.gross_per_lot, lots)

    def _by_lot(self, per_unit: np.ndarray, per_lot: np.ndarray, lots: np.ndarray) -> np.ndarray:
        found = per_unit.copy()
        if per_lot.any():
            found += per_lot / lots[self.parent]
        return found

    def usages_of(self, part: int) -> slice:
        """The usages on the sheet of a part, as a slice."""
        at = self.place[part]
        return slice(int(self.usage_start[at]), int(self.usage_start[at + 1]))

    def operations_of(self, part: int) -> slice:
        """The operations of a part, as a slice over the operation table."""
        first = np.searchsorted(self.operations.parent, part, "left")
        return slice(int(first), int(np.searchsorted(self.operations.parent, part, "right")))


def starts_per_good_unit(parent: np.ndarray, yield_percent: np.ndarray) -> np.ndarray:
    """Rule U1: what each operation must start for one good unit, 1 / (y_k · y_k+1 · … · y_last).

    Args:
        parent: the made part of each operation, sorted; operations of a part in sequence.
        yield_percent: the share each operation passes, in percent.

    >>> starts_per_good_unit(np.array([0, 0, 1]), np.array([80.0, 50.0, 100.0])).tolist()
    [2.5, 2.0, 1.0]
    """
    passed = yield_percent / 100.0
    count = len(passed)
    if count == 0 or (passed == 1.0).all():
        return np.ones(count)
    # Distance to the last operation of the same part; products are built from the last one backwards.
    last = np.searchsorted(parent, parent, "right") - 1
    distance = last - np.arange(count)
    product = passed.copy()
    for step in range(1, int(distance.max()) + 1):
        rows = np.flatnonzero(distance == step)
        product[rows] = passed[rows] * product[rows + 1]
    return 1.0 / product


def _refuse_phantom_work(parts: PartTable, lines: LineTable, counts: np.ndarray, operations: OperationTable) -> None:
    """Rule U8: a phantom carries no operations, per-lot quantities or fixed losses."""
    phantom = parts.kind == PHANTOM
    if not phantom.any():
        return
    at = np.flatnonzero(phantom[operations.parent])
    if at.size:
        part, sequence = parts.numbers[operations.parent[at[0]]], operations.sequence[at[0]]
        raise TallyError(f"sheet {part}, operation {sequence}: {part} is a phantom, and a phantom has no operations")
    at = np.flatnonzero(counts & phantom[lines.parent] & (lines.per_lot | (lines.fixed_loss != 0)))
    if at.size:
        part, item = parts.numbers[lines.parent[at[0]]], lines.item[at[0]]
        raise TallyError(
            f"sheet {part}, item {item}: {part} is a phantom, and a phantom has no lots, so it takes no quantity per lot and no fixed loss"
        )


def build_structure(
    parts: PartTable, lines: LineTable, operations: OperationTable, day: date, options: Collection[int] = (), top: int | None = None
) -> Structure:
    """Apply a day and a set of options to a definition (rules U1 to U8) and order its parts.

    Args:
        options: the codes of the chosen options, as they stand in ``lines.option``.
        top: keep only what this part takes; the whole catalogue when None.

    Raises:
        LoopError: a part contains itself; the path is named.
        UnitError: a line's unit does not convert to its part's stock unit.
        TallyError: an option removes too much, or a phantom carries work.

    >>> from tally_core.stated.definition import Definition, Line, Part, Sheet
    >>> from tally_core.structure.tabulate import tabulate
    >>> lines = [Line(part="ROD", quantity=2, scrap_percent=5)]
    >>> held = Definition(parts=[Part("ROD"), Part("T-1", kind="made")], sheets=[Sheet("T-1", status="released", lines=lines)])
    >>> s = build_structure(*tabulate(held, date(2026, 1, 1))[:3], date(2026, 1, 1))
    >>> s.net_per_unit.tolist(), s.gross_per_unit.tolist(), s.order.tolist()
    ([2.0], [2.1], [1, 0])
    """
    counts, quantity, factor_of_line = _stated(parts, lines, day, options, top)
    _refuse_phantom_work(parts, lines, counts, operations)

    rows = np.flatnonzero(counts)
    parent, child = lines.parent[rows], lines.child[rows]
    level, order, place, level_start = _levels(parts, parent, child)
    by_parent = np.argsort(place[parent], kind="stable")
    rows, parent, child = rows[by_parent], parent[by_parent], child[by_parent]
    usage_start = np.zeros(len(parts) + 1, dtype=np.int64)
    np.cumsum(np.bincount(place[parent], minlength=len(parts)), out=usage_start[1:])

    starts, first_operation = _started(operations, len(parts))
    at = np.where(lines.operation[rows] >= 0, lines.operation[rows], first_operation[parent])
    started = np.where(at >= 0, starts[at] if len(starts) else 1.0, 1.0)

    byproduct = GIVES_BACK[lines.kind[rows]]
    per_lot = lines.per_lot[rows]
    factor = factor_of_line[rows]
    amount = quantity[rows] * factor
    per_batch = amount / parts.batch[parent]
    scrap, passed = lines.scrap_percent[rows], lines.yield_percent[rows]
    loss = np.where(np.isnan(passed), 1.0 + np.nan_to_num(scrap) / 100.0, 100.0 / passed)
    loss = np.where(byproduct, 1.0, loss)
    fixed = np.where(byproduct, 0.0, lines.fixed_loss[rows] * factor)
    return Structure(
        parts=parts,
        lines=lines,
        operations=operations,
        level=level,
        order=order,
        place=place,
        level_start=level_start,
        line=rows.astype(np.int32),
        parent=parent,
        child=child,
        byproduct=byproduct,
        free=lines.customer_supplied[rows],
        quantity=quantity[rows],
        factor=factor,
        net_per_unit=np.where(per_lot | byproduct, 0.0, per_batch),
        net_per_lot=np.where(per_lot & ~byproduct, amount, 0.0),
        gross_per_unit=np.where(per_lot, 0.0, per_batch * started * loss),
        gross_per_lot=np.where(per_lot, amount * loss, 0.0) + fixed,
        usage_start=usage_start,
        starts=starts,
        first_operation=first_operation,
    )


def _stated(
    parts: PartTable, lines: LineTable, day: date, options: Collection[int], top: int | None
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Over lines: which of them count on the day (U7), what they state once options took their share (U6), and the factor to the stock unit."""
    counts = _counting(parts, lines, day, options)
    if top is not None:
        seen = reachable(len(parts), lines.parent[counts], lines.child[counts], top)
        counts &= seen[lines.parent]
    factor = _factors(parts, lines, np.flatnonzero(counts))
    removing = counts & lines.removes
    quantity = lines.quantity
    if removing.any():
        counts &= ~removing
        quantity = take_away(parts, lines, counts, removing)
        # A line removed whole is not there: it has no fixed loss either.
        counts &= ~(_touched(lines, removing) & (quantity == 0.0))
    return counts, quantity, factor


def _started(operations: OperationTable, parts: int) -> tuple[np.ndarray, np.ndarray]:
    """Over operations what each starts for one good unit (U1); over parts the row of the first one, -1 where there is none."""
    # What works beside an operation passes everything on, and starts what the operation starts.
    starts = starts_per_good_unit(operations.parent, operations.yield_percent)[operations.leads()]
    first_operation = np.full(parts, -1, dtype=np.int32)
    with_work, first = np.unique(operations.parent, return_index=True)
    first_operation[with_work] = first
    return starts, first_operation


def _counting(parts: PartTable, lines: LineTable, day: date, options: Collection[int]) -> np.ndarray:
    """Bool over lines: those that count on a day with some options chosen."""
    day_number = day.toordinal()
    counts = (
        NAMES_PART[lines.kind]
        & (lines.child >= 0)
        & ~np.isnan(lines.quantity)
        & ~lines.not_fitted
        & (lines.first_day <= day_number)
        & (day_number < lines.last_day)
        & TAKES_SHEET[parts.kind][lines.parent]
    )
    if (lines.option >= 0).any():
        counts &= (lines.option < 0) | np.isin(lines.option, list(options))
    return counts


def _factors(parts: PartTable, lines: LineTable, rows: np.ndarray) -> np.ndarray:
    """Over lines: from the line's unit to its part's stock unit, for some of them; 1 for all others. Raises UnitError."""
    factor = np.ones(len(lines))
    factor[rows] = FACTORS[lines.unit[rows], parts.unit[lines.child[rows]]]
    wrong = rows[np.isnan(factor[rows])]
    if wrong.size:
        row = wrong[0]
        source, target = SYMBOLS[lines.unit[row]], SYMBOLS[parts.unit[lines.child[row]]]
        raise UnitError(
            f"sheet {parts.numbers[lines.parent[row]]}, item {lines.item[row]}: {source} is {dimension(source)}, "
            f"and {parts.numbers[lines.child[row]]} is stocked in {target}, {dimension(target)}; they do not convert"
        )
    return factor


def _levels(parts: PartTable, parent: np.ndarray, child: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Over parts the level, and the rows in the order of levels; over rows their place in that; where each level starts. Raises LoopError."""
    level = low_level_codes(len(parts), parent, child)
    if (level < 0).any():
        loop = find_loop(len(parts), parent, child)
        assert loop is not None
        raise LoopError([parts.numbers[i] for i in loop])
    order = np.argsort(level, kind="stable").astype(np.int32)
    place = np.empty_like(order)
    place[order] = np.arange(len(order), dtype=np.int32)
    depth = int(level.max()) + 1 if len(level) else 0
    return level, order, place, np.searchsorted(level[order], np.arange(depth + 1))


def _touched(lines: LineTable, removing: np.ndarray) -> np.ndarray:
    """Bool over lines: those of a part that some removing line of the same sheet names."""
    pairs = set(zip(lines.parent[removing].tolist(), lines.child[removing].tolist(), strict=True))
    touched = np.zeros(len(lines), dtype=bool)
    for parent, child in pairs:
        touched |= (lines.parent == parent) & (lines.child == child)
    return touched


def require_sheets(structure: Structure, top: int, given_cost_suffices: bool, day: date) -> None:
    """Raise TallyError when a made part or a phantom under ``top`` has no sheet in force.

    With ``given_cost_suffices`` a part with a given cost needs none: it is costed by what was given.
    """
    parts = structure.parts
    seen = reachable(len(parts), structure.parent, structure.child, top)
    lacking = seen & TAKES_SHEET[parts.kind] & np.isnan(parts.batch)
    if given_cost_suffices:
        lacking &= np.isnan(parts.given_cost)
    rows = np.flatnonzero(lacking)
    if rows.size:
        names = ", ".join(sorted(parts.numbers[i] for i in rows[:5]))
        more = f" and {len(rows) - 5} more" if len(rows) > 5 else ""
        raise TallyError(f"no released build sheet in force on {day.isoformat()} for {names}{more}")
