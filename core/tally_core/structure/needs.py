"""Rules N1 to N3: what a job takes of every part."""

from dataclasses import dataclass

import numpy as np

from ..basics.kinds import IS_ITSELF
from ..basics.rounding import round_up
from .structure import Structure

__all__ = ["Needs", "average_needs", "job_needs", "places_in_one", "taken_in_one", "uses_of"]


@dataclass(slots=True)
class Needs:
    """Arrays over parts, each in the part's stock unit."""

    gross: np.ndarray  # what all lines together ask for, not rounded
    lot: np.ndarray  # what is made or taken: rounded up once where the part is counted in whole units
    returns: np.ndarray  # by-products, never netted (N3)
    depth: np.ndarray  # int32: deepest level on a list, where a phantom's lines stand in its place; -1 when not met


def job_needs(structure: Structure, top: int, quantity: float) -> Needs:
    """Rules N1 to N3 for a job of ``quantity`` of the part in row ``top``.

    Parts are taken by low-level code, so that a part is expanded only when all that asks for it has asked.
    """
    s, parts = structure, structure.parts
    count = len(parts)
    gross, returns = np.zeros(count), np.zeros(count)
    lot = np.zeros(count)
    depth = np.full(count, -1, dtype=np.int32)
    gross[top] = quantity
    depth[top] = 0
    whole = parts.whole_only & IS_ITSELF[parts.kind]
    step = IS_ITSELF[parts.kind].astype(np.int32)
    for a, b in zip(s.level_start[:-1], s.level_start[1:], strict=True):
        rows = s.order[a:b]
        lot[rows] = np.where(whole[rows], round_up(gross[rows]), gross[rows])
        usages = slice(s.usage_start[a], s.usage_start[b])
        parent, child = s.parent[usages], s.child[usages]
        if not parent.size:
            continue
        # A lot of none is no lot: its per-lot quantities are not taken.
        taken = np.where(lot[parent] > 0, s.gross_per_unit[usages] * lot[parent] + s.gross_per_lot[usages], 0.0)
        back = s.byproduct[usages]
        asks = ~back & (lot[parent] > 0)
        gross += np.bincount(child[asks], weights=taken[asks], minlength=count)
        if back.any():
            returns += np.bincount(child[back], weights=taken[back], minlength=count)
        np.maximum.at(depth, child[asks], depth[parent[asks]] + step[parent[asks]])
    return Needs(gross, lot, returns, depth)


def average_needs(structure: Structure, top: int, lots: np.ndarray) -> np.ndarray:
    """Over parts: what one unit of ``top`` takes on average, all paths together, every made part in its given lot.

    Nothing is rounded; what is taken once per lot is spread over the lot. By-products are left out (N3).
    """
    return taken_in_one(structure, top, np.where(structure.byproduct, 0.0, structure.gross(lots)))


def places_in_one(structure: Structure, top: int) -> np.ndarray:
    """Over parts: how often each stands in one unit of ``top``, all paths together: quantities as stated, without losses.

    What is taken once per lot stands in no single unit, and a by-product in none.
    """
    return taken_in_one(structure, top, np.where(structure.byproduct, 0.0, structure.net_per_unit))


def taken_in_one(structure: Structure, top: int, each: np.ndarray) -> np.ndarray:
    """Over parts: what one of ``top`` comes to of each, all paths together, by levels from the top; ``each``: over usages, in one of the parent."""
    s, count = structure, len(structure.parts)
    found = np.zeros(count)
    found[top] = 1.0
    for a, b in zip(s.level_start[:-1], s.level_start[1:], strict=True):
        usages = slice(s.usage_start[a], s.usage_start[b])
        found += np.bincount(s.child[usages], weights=each[usages] * found[s.parent[usages]], minlength=count)
    return found


def uses_of(structure: Structure, part: int, lots: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where-used with quantities: how much of ``part`` stands in one unit of every other, all paths together.

    Returns:
        float64 over parts, in the stock unit of ``part`` (1 for itself), averaged as in :func:`average_needs`; and int32
        over parts, the longest way down to it in levels, phantoms counted, -1 where it is not met.

    A row of (I − A)⁻¹, by taking every part once all that stands below it is known.
    """
    s, count = structure, len(structure.parts)
    gross = np.where(s.byproduct, 0.0, s.gross(lots))
    taken = np.zeros(count)
    distance = np.full(count, -1, dtype=np.int32)
    taken[part], distance[part] = 1.0, 0
    for a, b in zip(s.level_start[-2::-1], s.level_start[:0:-1], strict=True):
        usages = slice(s.usage_start[a], s.usage_start[b])
        parent, child = s.parent[usages], s.child[usages]
        met = (distance[child] >= 0) & ~s.byproduct[usages]
        taken += np.bincount(parent[met], weights=gross[usages][met] * taken[child[met]], minlength=count)
        np.maximum.at(distance, parent[met], distance[child[met]] + 1)
    return taken, distance
