"""Tallying a round: from the database to old and new of every part in it."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import date

import numpy as np
from django.db import connection
from loading.laid_over import Item, items_of, with_items
from loading.loaded import Loaded
from loading.moment import one_moment
from loading.reads import load_catalogue, load_parts, reached
from loading.standards import MILLION, Standards, read_standards
from loading.written import Mark
from psycopg import Cursor
from standards.models import Round, Tally, TallyInputs
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import HAS_PRICE, IS_ITSELF, TAKES_SHEET
from tally_core.basics.rounding import millionths
from tally_core.cost.answers import Basis
from tally_core.cost.causes import CAUSES, Costing, causes
from tally_core.cost.cost import Fixed, roll_up, standard_lots
from tally_core.structure.structure import Structure, build_structure

from rounds.copying import copy_rows
from rounds.snapshot import pack, unpack

__all__ = ["Tallied", "costing_kept", "keep", "loaded_for", "tally_round"]

_NAMED = 200


@dataclass(slots=True)
class Tallied:
    """What a round comes to. Rows are the parts in it; money in whole millionths."""

    loaded: Loaded
    fixed: Fixed | None
    part: np.ndarray  # int64 keys
    lot: np.ndarray
    unit: np.ndarray
    elements: np.ndarray
    this_level: np.ndarray
    before: np.ndarray
    before_elements: np.ndarray
    standard: np.ndarray  # key of the standard so far, -1 where there is none
    causes: np.ndarray
    lacking: list[str]
    unpriced: list[str]


def loaded_for(the_round: Round) -> Loaded:
    """The inputs of the parts that a round may be for, as they stand, without what it proposes."""
    with one_moment():
        if the_round.scope != "chosen":
            return load_catalogue(the_round.first_day)
        ids = reached(list(the_round.chosen.values_list("pk", flat=True)), the_round.first_day, False)
        return load_parts(ids, Basis(the_round.first_day))


def _upwards(s: Structure, marked: np.ndarray) -> np.ndarray:
    """The parts marked and all that take them, by levels from the bottom."""
    found = marked.copy()
    for a, b in zip(s.level_start[-2::-1], s.level_start[:0:-1], strict=True):
        usages = slice(s.usage_start[a], s.usage_start[b])
        parent = s.parent[usages]
        found[parent[found[s.child[usages]]]] = True
    return found


def _touched(loaded: Loaded, s: Structure, items: list[Item]) -> np.ndarray:
    """Bool over parts: those whose own inputs a round changes, and all that take them."""
    marked = np.zeros(len(loaded.part_ids), dtype=bool)
    by_table: dict[str, set[str]] = {}
    for table, key, _, _ in items:
        by_table.setdefault(table, set()).add(key)
    if "part" in by_table:
        marked |= np.isin(loaded.part_ids, [int(key) for key in by_table["part"]])
    if "work_center" in by_table:
        at = np.isin(loaded.center_ids, [int(key) for key in by_table["work_center"]])
        marked[loaded.operations.parent[at]] = True
    for table, ids, parent in (
        ("line", loaded.line_ids, loaded.lines.parent),
        ("operation", loaded.operation_ids, loaded.operations.parent),
    ):
        if table in by_table:
            keys = {key.replace("-", "") for key in by_table[table]}
            marked[parent[[key.hex() in keys for key in ids.tolist()]]] = True
    return _upwards(s, marked)


def tally_round(the_round: Round, say: Callable[[str, int], None]) -> Tallied:
    """Everything a round comes to; writes nothing.

    Raises TallyError where a sheet cannot be costed at all, nothing is in the round, or its day is not after a standard.
    """
    say("reading all inputs", 1)
    plain = loaded_for(the_round)
    items = items_of(the_round, plain)
    loaded = with_items(plain, items)
    say(f"rolling up {len(loaded.lines):,} lines", 2)
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, the_round.first_day)
    parts = loaded.parts
    unsheeted = TAKES_SHEET[parts.kind] & np.isnan(parts.batch) & np.isnan(parts.given_cost)
    unpriced = HAS_PRICE[parts.kind] & np.isnan(parts.unit_cost) & np.isnan(parts.given_cost)
    if the_round.scope == "chosen":
        wanted = np.isin(loaded.part_ids, list(the_round.chosen.values_list("pk", flat=True)))
    else:
        wanted = np.ones(len(parts), dtype=bool) if the_round.scope == "all" else _touched(loaded, s, items)
    # A phantom is not costed on its own.
    wanted &= IS_ITSELF[parts.kind]
    newest = read_standards(None)
    fixed = _outside(loaded, wanted, read_standards(the_round.first_day))
    rests = unsheeted.copy()
    if fixed is not None:
        rests[fixed.rows] = False
    lacks = _upwards(s, rests)
    lacking = [parts.numbers[i] for i in np.flatnonzero(wanted & lacks)[:_NAMED].tolist()]
    used = np.zeros(len(parts), dtype=bool)
    used[s.child[wanted[s.parent]]] = True
    no_price = [parts.numbers[i] for i in np.flatnonzero(unpriced & (wanted | used))[:_NAMED].tolist()]
    rows = np.flatnonzero(wanted & ~lacks & ~unpriced)
    if not rows.size:
        raise TallyError(_nothing(the_round, lacking))
    lots = standard_lots(s)
    costs = roll_up(s, lots, fixed)
    new = Costing(s, lots, loaded.part_ids, fixed)
    elements, unit = millionths(costs.unit[rows], costs.unit[rows].sum(axis=1))
    this_level, _ = millionths(costs.this_level[rows], costs.this_level[rows].sum(axis=1))

    part = loaded.part_ids[rows]
    at = np.searchsorted(newest.part, part)
    at = np.where(at < len(newest.part), at, 0)
    stands = newest.part[at] == part if len(newest.part) else np.zeros(len(part), dtype=bool)
    _refuse_earlier(the_round, loaded, part[stands], newest.first_day[at[stands]])
    before, before_elements = np.zeros(len(rows), dtype=np.int64), np.zeros_like(elements)
    before[stands], before_elements[stands] = newest.unit[at[stands]], newest.elements[at[stands]]
    found = np.full((len(rows), len(CAUSES)), np.nan)
    say("finding causes", 3)
    if not stands.all():
        base = _structure(plain)
        old = Costing(base, standard_lots(base), plain.part_ids, fixed)
        now = roll_up(base, old.lots, fixed).unit[rows[~stands]]
        before_elements[~stands], before[~stands] = millionths(now, now.sum(axis=1))
        found[~stands] = causes(old, new)[0][rows[~stands]]
    for key in np.unique(newest.round[at[stands]]).tolist():
        mine = np.flatnonzero(stands)[newest.round[at[stands]] == key]
        found[mine] = causes(costing_kept(key), new)[0][rows[mine]]
    # Without an old costing of its own (a part that came later) all of it is structure.
    unknown = np.isnan(found).any(axis=1)
    found[unknown] = 0.0
    found[unknown, -1] = (unit - before)[unknown] / MILLION
    caused, _ = millionths(found, (unit - before) / MILLION)
    return Tallied(
        loaded=loaded,
        fixed=fixed,
        part=part,
        lot=np.rint(lots[rows] * MILLION).astype(np.int64),
        unit=unit,
        elements=elements,
        this_level=this_level,
        before=before,
        before_elements=before_elements,
        standard=np.where(stands, newest.key[at] if len(newest.key) else -1, -1),
        causes=caused,
        lacking=lacking,
        unpriced=no_price,
    )


def _structure(loaded: Loaded) -> Structure:
    return build_structure(loaded.parts, loaded.lines, loaded.operations, loaded.day)


def _outside(loaded: Loaded, wanted: np.ndarray, standards: Standards) -> Fixed | None:
    """Parts that are not in the round stand at the standard that holds on its day, where they have one."""
    rows = np.searchsorted(loaded.part_ids, standards.part)
    known = rows < len(loaded.part_ids)
    known[known] = loaded.part_ids[rows[known]] == standards.part[known]
    at = np.flatnonzero(known)[~wanted[rows[known]]]
    return standards.fixed(rows[at], at) if at.size else None


def _nothing(the_round: Round, lacking: list[str]) -> str:
    if lacking:
        return f"Nothing in {the_round.name} can be costed: no released sheet is in force for {', '.join(lacking[:5])}, or below it."
    if the_round.scope == "touched":
        return f"{the_round.name} proposes nothing that reaches a part; propose an input, or choose its parts."
    return f"There is no part in {the_round.name}; choose its parts."


def _refuse_earlier(the_round: Round, loaded: Loaded, parts: np.ndarray, first_day: np.ndarray) -> None:
    """A part's standards follow one another: none is accepted for a day on which, or before which, there is one."""
    late = np.flatnonzero(first_day >= the_round.first_day.toordinal())
    if not late.size:
        return
    named = [
        f"{loaded.parts.numbers[loaded.row(int(parts[i]))]} ({date.fromordinal(int(first_day[i])).isoformat()})" for i in late[:3].tolist()
    ]
    raise TallyError(
        f"{the_round.name} holds from {the_round.first_day.isoformat()}, and standards were accepted from that day on or later: "
        f"{', '.join(named)}{' and more' if late.size > 3 else ''}. Give the round a later day."
    )


def costing_kept(round_id: int) -> Costing:
    """The inputs on which an accepted round's standards rest."""
    loaded, fixed = unpack(bytes(TallyInputs.objects.get(tally__round=round_id).content))
    s = _structure(loaded)
    return Costing(s, standard_lots(s), loaded.part_ids, fixed)


def keep(the_round: Round, tallied: Tallied, mark: Mark, last_standard: int, by: str) -> Tally:
    """Put a tally in the place of the round's last one; to be called in a transaction."""
    Tally.objects.filter(round=the_round).delete()
    tally = Tally.objects.create(
        round=the_round,
        round_version=the_round.version,
        mark=asdict(mark),
        elements=list(ELEMENTS),
        causes=list(CAUSES),
        parts=len(tallied.part),
        last_standard=last_standard,
        tallied_by=by,
        lacking=tallied.lacking,
        unpriced=tallied.unpriced,
    )
    names = ("part_id", "lot", "unit", "elements", "this_level", "before", "before_elements", "causes")
    for rows, standard in ((tallied.standard >= 0, tallied.standard), (tallied.standard < 0, None)):
        count = int(rows.sum())
        if count:
            columns = {n: getattr(tallied, n.removesuffix("_id"))[rows] for n in names}
            columns["tally_id"] = np.full(count, tally.pk)
            copy_rows("standards_tallyrow", columns | {"standard": None if standard is None else standard[rows]}, count)
    content = pack(tallied.loaded, tallied.fixed)
    # Bound on the server: Django's own cursor would write all of it into the statement, as text.
    with Cursor(connection.connection) as cursor:
        cursor.execute(f"INSERT INTO {TallyInputs._meta.db_table} (tally_id, content) VALUES (%s, %b)", [tally.pk, content])
    return tally
