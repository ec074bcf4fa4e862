"""Rule D1: why a cost differs from another, cause by cause, so that the causes add up."""

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import numpy as np

from ..basics.facts import facts_of
from ..stated.definition import Operation, Part, Subcontract, WorkCenter
from ..structure.structure import Structure
from ..structure.tables import OperationTable
from .cost import Fixed, unit_totals

__all__ = ["CAUSES", "Costing", "causes"]

#: In the order in which they are substituted.
CAUSES = ("price", "usage", "rate", "time", "lot", "structure")

#: What lines, batches and yields come to on a structure: all that belongs to usage.
_USAGES = ("net_per_unit", "net_per_lot", "gross_per_unit", "gross_per_lot", "free")


def _columns(cause: str, *records: type) -> tuple[str, ...]:
    """The columns of the fields that belong to a cause."""
    return tuple(f.column or name for record in records for name, f in facts_of(record).items() if f.cause == cause)


_OF_PARTS = _columns("price", Part)
_OF_OPERATIONS = {cause: _columns(cause, Operation, Subcontract, WorkCenter) for cause in ("price", "rate", "time")}


@dataclass(slots=True)
class Costing:
    """All that the costs of some parts rest on.

    ``keys`` names the parts across costings: int64 over part rows, each once.
    """

    structure: Structure
    lots: np.ndarray
    keys: np.ndarray
    fixed: Fixed | None = None

    def totals(self) -> np.ndarray:
        """The unit cost of every part."""
        return unit_totals(self.structure, self.lots, self.fixed)


def _find(wanted: np.ndarray, among: np.ndarray) -> np.ndarray:
    """Where each wanted key stands among others, -1 where it does not. Keys are unique on both sides."""
    if np.array_equal(wanted, among):
        return np.arange(len(wanted))
    order = np.argsort(among, kind="stable")
    at = np.searchsorted(among, wanted, sorter=order)
    found = order[np.minimum(at, len(order) - 1)] if len(order) else np.full(len(wanted), -1)
    return np.where(among[found] == wanted, found, -1) if len(order) else found


def _numbered(keys: np.ndarray) -> np.ndarray:
    """How many of the same key stand before each."""
    order = np.argsort(keys, kind="stable")
    ordered = keys[order]
    first = np.searchsorted(ordered, ordered, "left")
    found = np.empty(len(keys), dtype=np.int64)
    found[order] = np.arange(len(keys)) - first
    return found


def _match_usages(old: Structure, new: Structure, to_new: np.ndarray) -> np.ndarray:
    """Over old usages: the same one in the new structure, -1 where there is none.

    It is the same when it takes the same part on the same sheet in the same way (or returns it); where a sheet does so on
    several lines, they are matched in list order.
    """
    count = len(new.parts)
    parent, child = to_new[old.parent].astype(np.int64), to_new[old.child].astype(np.int64)
    known = (parent >= 0) & (child >= 0)
    one = ((parent * count + child) * 2 + old.byproduct)[known]
    other = (new.parent.astype(np.int64) * count + new.child) * 2 + new.byproduct
    matched = np.full(len(known), -1)
    if np.array_equal(one, other):
        matched[known] = np.arange(len(one))
        return matched
    # A key and how many of it stand before make one key that stands once.
    _, key = np.unique(np.concatenate((one, other)), return_inverse=True)
    first, second = _numbered(key[: len(one)]), _numbered(key[len(one) :])
    step = int(max(first.max(initial=0), second.max(initial=0))) + 1
    matched[known] = _find(key[: len(one)] * step + first, key[len(one) :] * step + second)
    return matched


def _same(a: np.ndarray, b: np.ndarray) -> bool:
    return np.array_equal(a, b, equal_nan=a.dtype.kind == "f")


def causes(old: Costing, new: Costing) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rule D1 for every part of ``new``.

    Returns:
        float64 of shape (P, 6): what each of :data:`CAUSES` adds, in currency per stock unit; NaN for a part that ``old``
        does not hold. Then over parts the old and the new unit cost. old + causes = new, up to float dust.

    Inputs of the old costing are replaced by those of the new one, cause by cause, and everything is rolled up after each.
    Price: unit costs, overhead on material, costs and markups given by hand, prices outside, and standards at which parts
    are taken. Usage: quantities, losses, yields, batch sizes, what a customer supplies. Rate: what an hour or a piece is
    paid. Time: minutes, crews, cycles, efficiency. Lot: the lots. Structure: all that one side has and the other lacks.
    A step that changes nothing is not computed, so its cause is zero, not dust.
    """
    s, t = old.structure, new.structure
    to_new = _find(old.keys, new.keys)
    known = to_new >= 0
    same_kind = known.copy()
    same_kind[known] = s.parts.kind[known] == t.parts.kind[to_new[known]]
    usage = _match_usages(s, t, to_new)
    operation = _match_operations(s, t, to_new)

    now = replace(old)
    steps = [old.totals()]

    def step(changed: bool) -> None:
        steps.append(now.totals() if changed else steps[-1])

    def taken(ours: np.ndarray, theirs: np.ndarray, at: np.ndarray, where: np.ndarray) -> np.ndarray:
        return np.where(where, theirs.take(np.where(where, at, 0), mode="clip") if len(theirs) else ours, ours)

    def with_operations(names: tuple[str, ...], where: np.ndarray) -> bool:
        ours, theirs = now.structure.operations, t.operations
        fresh = {n: taken(getattr(ours, n), getattr(theirs, n), operation, where) for n in names}
        fresh = {n: c for n, c in fresh.items() if not _same(c, getattr(ours, n))}
        now.structure = replace(now.structure, operations=replace(ours, **fresh))
        return bool(fresh)

    def with_parts(names: tuple[str, ...], where: np.ndarray) -> bool:
        ours, theirs = now.structure.parts, t.parts
        fresh: dict[str, Any] = {n: taken(getattr(ours, n), getattr(theirs, n), to_new, where) for n in names}
        fresh = {n: c for n, c in fresh.items() if not _same(c, getattr(ours, n))}
        now.structure = replace(now.structure, parts=replace(ours, **fresh))
        return bool(fresh)

    both = operation >= 0
    if both.any():
        outside = ~np.isnan(s.operations.outside_price)
        both[both] = outside[both] == ~np.isnan(t.operations.outside_price[operation[both]])

    # price
    changed = with_parts(_OF_PARTS, same_kind)
    changed |= with_operations(_OF_OPERATIONS["price"], both)
    fixed = _mapped(new.fixed, to_new, len(t.parts))
    if not _same_fixed(fixed, now.fixed):
        now.fixed, changed = fixed, True
    step(changed)
    # usage
    fresh: dict[str, Any] = {n: taken(getattr(s, n), getattr(t, n), usage, usage >= 0) for n in _USAGES}
    if len(t.starts):
        fresh["starts"] = taken(s.starts, t.starts, operation, both)
    fresh = {n: c for n, c in fresh.items() if not _same(c, getattr(s, n))}
    now.structure = replace(now.structure, **fresh)
    step(bool(fresh))
    step(with_operations(_OF_OPERATIONS["rate"], both))
    step(with_operations(_OF_OPERATIONS["time"], both))
    # lot
    lots = taken(old.lots, new.lots, to_new, known)
    changed = not _same(lots, old.lots)
    now.lots = lots
    step(changed)
    # structure: whatever is left
    complete = (
        len(s.parts) == len(t.parts)
        and bool(same_kind.all())
        and _all_matched(usage, len(t.line))
        and _all_matched(np.where(both, operation, -1), len(t.operations))
    )
    last = steps[-1][_find(new.keys, old.keys)] if complete else new.totals()

    from_old = _find(new.keys, old.keys)
    held = from_old >= 0
    before = np.full(len(new.keys), np.nan)
    found = np.full((len(new.keys), len(CAUSES)), np.nan)
    before[held] = steps[0][from_old[held]]
    for index, (one, other) in enumerate(pairwise(steps)):
        found[held, index] = other[from_old[held]] - one[from_old[held]]
    found[held, -1] = last[held] - steps[-1][from_old[held]]
    return found, before, last


def _all_matched(at: np.ndarray, count: int) -> bool:
    """Every row of one side is matched, and every row of the other."""
    return len(at) == count and bool((at >= 0).all())


def _match_operations(old: Structure, new: Structure, to_new: np.ndarray) -> np.ndarray:
    """Over old operations: that of the same number and resource on the same part's sheet, -1 where there is none."""
    if not len(old.operations) or not len(new.operations):
        return np.full(len(old.operations), -1)
    both = (old.operations, new.operations)
    highest, widest = (int(max(getattr(o, name).max() for o in both)) + 1 for name in ("sequence", "resource"))
    parent = to_new[old.operations.parent].astype(np.int64)

    def key(parent: np.ndarray, o: OperationTable) -> np.ndarray:
        return (parent * highest + o.sequence) * widest + o.resource

    one = np.where(parent >= 0, key(parent, old.operations), -1 - np.arange(len(parent)))
    return _find(one, key(new.operations.parent.astype(np.int64), new.operations))


def _mapped(fixed: Fixed | None, to_new: np.ndarray, count: int) -> Fixed | None:
    """The standards of the new costing, on the rows of the old one."""
    if fixed is None:
        return None
    at = np.full(count, -1)
    at[fixed.rows] = np.arange(len(fixed.rows))
    held = np.where(to_new >= 0, at[np.maximum(to_new, 0)], -1)
    rows = np.flatnonzero(held >= 0)
    return Fixed(rows, fixed.unit[held[rows]], fixed.this_level[held[rows]])


def _same_fixed(one: Fixed | None, other: Fixed | None) -> bool:
    if one is None or other is None:
        return (one is None or not len(one.rows)) and (other is None or not len(other.rows))
    return np.array_equal(one.rows, other.rows) and np.array_equal(one.unit, other.unit)
