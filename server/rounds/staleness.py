"""Whether a round's tally still says what its inputs say."""

import numpy as np
from loading.laid_over import items_of, with_items
from loading.loaded import Loaded
from loading.reads import load_parts, reached
from loading.written import Mark, written_since
from standards.models import Round, Standard, Tally, TallyInputs
from tally_core.cost.answers import Basis
from tally_core.structure.overlay import same_inputs
from tally_core.structure.tables import LineTable, OperationTable

from rounds.snapshot import unpack

__all__ = ["changes_since"]


def changes_since(the_round: Round, tally: Tally) -> list[str]:
    """What changed since a round was tallied, in words; none when it can be accepted as it is.

    Looks only at what was written since, of that only at parts in the round and below it, and of those only at what a cost
    rests on: a new description does not count. A part that was made since is in no tally; where a sheet takes it, the sheet
    has changed.
    """
    said = []
    if tally.round_version != the_round.version:
        said.append("what it proposes, or the parts it is for")
    _, done = written_since(Mark(**tally.mark))
    newer = Standard.objects.filter(pk__gt=tally.last_standard).exclude(round=the_round)
    # What an option allows is no input of a standard: only which sheets take it, and that is written on them.
    if not done.parts and not done.centers and not newer.exists():
        return said
    if done.whole:
        return [*said, "more parts than can be told one by one"]
    written, centers = done.parts, done.centers
    held, _ = unpack(bytes(TallyInputs.objects.get(tally=tally).content))
    matters = _below(held, np.array(tally.rows.values_list("part_id", flat=True), dtype=np.int64))
    for x in newer.filter(part__in=matters.tolist()).select_related("part", "round").order_by("part__number")[:3]:
        said.append(f"{x.part.number} has a new standard, by {x.round.name}")
    if centers:
        on = np.isin(held.center_ids, list(centers))
        written |= set(held.part_ids[np.unique(held.operations.parent[on])].tolist())
    written &= set(matters.tolist())
    basis = Basis(the_round.first_day)
    loaded = load_parts(reached(list(written), basis.as_of, False), basis)
    now = with_items(loaded, items_of(the_round, loaded))
    return said + _differences(held, now, sorted(written))


def _below(held: Loaded, part_ids: np.ndarray) -> np.ndarray:
    """The keys of some parts and of all they take, at any level."""
    met = np.isin(held.part_ids, part_ids)
    parent, child = held.lines.parent[held.lines.child >= 0], held.lines.child[held.lines.child >= 0]
    while True:
        before = int(met.sum())
        met[child[met[parent]]] = True
        if int(met.sum()) == before:
            return held.part_ids[met]


def _differences(held: Loaded, now: Loaded, written: list[int]) -> list[str]:
    """What a cost rests on and differs, part by part, in words. All of the parts are in what is held."""
    there = set(now.part_ids.tolist())
    said = [] if there.issuperset(written) else ["a part was taken away"]
    for key in (k for k in written if k in there):
        at, row = held.row(key), now.row(key)
        number = now.parts.numbers[row]
        for name in type(now.parts).__dataclass_fields__:
            if name == "numbers":
                continue
            one, other = getattr(held.parts, name)[at], getattr(now.parts, name)[row]
            if one != other and not (one != one and other != other):
                words = "sheet" if name == "batch" else name.replace("_", " ")
                said.append(f"{number}: {words}")
        if not same_inputs(*(_own_lines(x, r) for x, r in ((held, at), (now, row)))):
            said.append(f"{number}: its lines")
        if not same_inputs(*(_own_operations(x, r) for x, r in ((held, at), (now, row)))):
            said.append(f"{number}: its operations, or what an hour of them costs")
    return said


def _own_lines(loaded: Loaded, row: int) -> LineTable:
    """The lines of one part, with parts and operations named by what does not depend on what else was loaded."""
    at = np.flatnonzero(loaded.lines.parent == row)
    own = {n: getattr(loaded.lines, n)[at] for n in LineTable.__dataclass_fields__}
    # What a line is called does not cost.
    own["parent"] = own["item"] = np.zeros(len(at))
    child, operation = own["child"], own["operation"]
    # A text has no unit; what stands there is that of whichever part was loaded last.
    own["unit"] = np.where(child >= 0, own["unit"], 0)
    own["child"] = np.where(child >= 0, loaded.part_ids[child], -1)
    own["operation"] = (
        np.where(operation >= 0, loaded.operations.sequence.take(operation, mode="clip"), -1) if len(loaded.operations) else operation
    )
    return LineTable(**own)


def _own_operations(loaded: Loaded, row: int) -> OperationTable:
    at = np.flatnonzero(loaded.operations.parent == row)
    own = {n: getattr(loaded.operations, n)[at] for n in OperationTable.__dataclass_fields__}
    return OperationTable(**own | {"parent": np.zeros(len(at))})
