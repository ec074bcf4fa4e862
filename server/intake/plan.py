"""What a brought-in list will become, row by row, before anything is saved."""

from collections import defaultdict
from dataclasses import dataclass, field
from decimal import Decimal

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.db.models.functions import Upper
from readings.renumbering import free_numbers
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import PART_KIND
from tally_core.basics.ordering import find_loop
from tally_core.lists.cells import Cell, text_of
from tally_core.lists.intake import Reading, read_rows, sole_root
from tally_core.stated import definition as core
from tally_core.stated.records import check_line, check_number, check_part
from tally_core.structure.effectivity import revision_order
from verbs.sheets.open_sheet import next_revision

from intake.models import Intake

__all__ = ["Mapping", "Plan", "PlannedSheet", "make_plan"]


@dataclass(frozen=True, slots=True)
class Mapping:
    """How a file is read: which table, which row is the header, which column holds what, and for which part."""

    table: int
    header: int  # index of the header's row, from 0
    columns: dict[str, int]
    top: str
    comma: bool
    number_class: str = ""  # rows without a part number take the next numbers of this class


@dataclass(slots=True)
class PlannedSheet:
    """A sheet that will be made; or, when ``stands``, one that is there already with these lines."""

    part: str
    revision: str
    stands: bool
    lines: list[Reading]


@dataclass(slots=True)
class Plan:
    """All rows with what each becomes, the sheets they make, and the parts that are new."""

    top: str
    rows: list[Reading]
    becomes: dict[int, str]  # row number → words
    new_parts: dict[str, Reading]
    kinds: dict[str, str]
    sheets: list[PlannedSheet]
    problems: list[str] = field(default_factory=list)  # of the list as a whole
    numbered: set[str] = field(default_factory=set)  # numbers given to rows that had none
    turned: set[str] = field(default_factory=set)  # parts that came in as bought, and are made from now on
    described: dict[str, str] = field(default_factory=dict)  # descriptions of parts that have none so far

    @property
    def stops(self) -> int:
        return len(self.problems) + sum(bool(r.problems) for r in self.rows)


def make_plan(intake: Intake, mapping: Mapping) -> Plan:
    """Read the rows under a mapping and hold them against the parts and sheets that exist. Saves nothing.

    Raises TallyError when the mapping itself makes no sense.
    """
    if not 0 <= mapping.table < len(intake.grid):
        raise TallyError("The file has no such sheet.")
    rows = intake.rows(mapping.table)
    if not 0 <= mapping.header < len(rows):
        raise TallyError("The header is not a row of this list.")
    if "part" not in mapping.columns:
        raise TallyError("Say which column holds the part number.")
    if "level" in mapping.columns and "parent" in mapping.columns:
        raise TallyError("Choose either a level column or a parent column: each places a row in its own way.")
    rows, numbered = _numbered(rows, mapping)
    asked = mapping.top.strip()
    if not asked and "parent" in mapping.columns:
        asked = sole_root(rows, mapping.header, mapping.columns)
    found = read_rows(rows, mapping.header, mapping.columns, asked, mapping.comma)
    if not found:
        raise TallyError("There is no filled row below the header.")
    own = next((r for r in found if r.is_top), None)
    top = own.part if own else asked
    plan = Plan(top, found, {}, {}, {}, [], numbered=numbered)
    wrong = check_number(top)
    if wrong:
        plan.problems.append(f"Say which part this list is for: {wrong}.")
    _one_spelling(plan)
    held = {p.number.upper(): p for p in Part.objects.filter(number__in=_spellings(plan))}
    parents = {r.parent.upper() for r in found if r.parent and not r.is_top}
    _parts(plan, held, parents)
    _sheets(plan, held, by_level="level" in mapping.columns)
    _loops(plan)
    return plan


def _numbered(rows: list[list[Cell]], mapping: Mapping) -> tuple[list[list[Cell]], set[str]]:
    """The rows with numbers where they had none but a description: the next of a class, one for each description."""
    part, described = mapping.columns["part"], mapping.columns.get("description")
    if not mapping.number_class or described is None:
        return rows, set()

    def cell(row: list[Cell], column: int) -> str:
        return text_of(row[column]).strip() if 0 <= column < len(row) else ""

    waiting = [
        at
        for at, row in enumerate(rows)
        if at > mapping.header
        and not cell(row, part)
        and cell(row, described)
        and sum(bool(text_of(c).strip()) for c in row) > 1
    ]
    words = list(dict.fromkeys(cell(rows[at], described).casefold() for at in waiting))
    number_of = dict(zip(words, free_numbers(mapping.number_class, len(words)), strict=True))
    rows = list(rows)
    for at in waiting:
        row = [*rows[at], *[""] * (part + 1 - len(rows[at]))]
        row[part] = number_of[cell(row, described).casefold()]
        rows[at] = row
    return rows, set(number_of.values())


def _one_spelling(plan: Plan) -> None:
    """The same number in small and capital letters is one part: what the stock of parts or the first row says."""
    numbers = {n for r in plan.rows for n in (r.part, r.parent) if n} | {plan.top}
    stock = Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=[n.upper() for n in numbers])
    spelled = {p.number.upper(): p.number for p in stock}
    for reading in plan.rows:
        reading.part = spelled.setdefault(reading.part.upper(), reading.part)
        reading.parent = spelled.setdefault(reading.parent.upper(), reading.parent) if reading.parent else ""
    plan.top = spelled.setdefault(plan.top.upper(), plan.top)


def _spellings(plan: Plan) -> list[str]:
    return list({n for r in plan.rows for n in (r.part, r.parent) if n} | {plan.top})


def _parts(plan: Plan, held: dict[str, Part], parents: set[str]) -> None:
    if plan.top and plan.top.upper() not in held:
        plan.kinds[plan.top] = "made"
        plan.new_parts[plan.top] = next((r for r in plan.rows if r.is_top), Reading(0, part=plan.top))
    elif plan.top and _becomes_made(held[plan.top.upper()]):
        plan.turned.add(plan.top)
    elif plan.top and not PART_KIND[held[plan.top.upper()].kind].takes_sheet:
        plan.problems.append(f"{plan.top} is a {held[plan.top.upper()].kind} part and has no build sheet.")
    for reading in plan.rows:
        part = held.get(reading.part.upper())
        takes = reading.part.upper() in parents
        under = reading.parent or "the part this list is for"
        if part is not None and not part.description and reading.description:
            plan.described.setdefault(part.number, reading.description)
        filled = "; its description is filled" if part is not None and part.number in plan.described else ""
        if reading.is_top:
            made = "; a made part from now on" if plan.top in plan.turned else ""
            plan.becomes[reading.row] = f"the part this list is for{made}{filled}"
            continue
        if part is None:
            plan.kinds.setdefault(reading.part, "made" if takes else "bought")
            first = plan.new_parts.setdefault(reading.part, reading)
            unit = first.unit or "ea"
            plan.becomes[reading.row] = f"line of {under}; new {plan.kinds[reading.part]} part, a draft"
        else:
            unit = part.unit
            plan.becomes[reading.row] = f"line of {under}{filled}"
            if takes and _becomes_made(part):
                plan.turned.add(part.number)
                plan.becomes[reading.row] += f"; {part.number} came in as bought and is a made part from now on"
            elif takes and not PART_KIND[part.kind].takes_sheet:
                reading.problems.append(f"{part.number} is a {part.kind} part, but the list has lines under it")
            if part.lifecycle in ("last_buy", "obsolete"):
                reading.looks.append(f"{part.number} is {part.lifecycle.replace('_', ' ')}")
        _check(reading, unit, plan.kinds[reading.part] if part is None else "")


def _check(reading: Reading, stock_unit: str, new_kind: str) -> None:
    """What the bundle and the screens would refuse is refused here too: the line, and the part where it is a new one."""
    line = core.Line(
        part=reading.part,
        quantity=reading.quantity,
        unit=reading.unit,
        scrap_percent=reading.scrap_percent,
        reference_designators=reading.reference_designators,
    )
    found = list(check_line(line, stock_unit))
    if new_kind:
        found += check_part(
            core.Part(
                reading.part, reading.description, new_kind, stock_unit, unit_cost=reading.unit_cost, lifecycle="draft"
            )
        )
    reading.problems += [p.message for p in found if p.message not in reading.problems]


def _becomes_made(part: Part) -> bool:
    """Whether a part came in as bought, as a draft, and is made now that its own list is there: lists come in any order."""
    return part.kind == "bought" and part.lifecycle == "draft" and not part.unmodelled


def _same(lines: list[tuple[str, Decimal | None, str]], others: list[tuple[str, Decimal | None, str]]) -> bool:
    return sorted(lines, key=str) == sorted(others, key=str)


def _sheets(plan: Plan, held: dict[str, Part], by_level: bool) -> None:
    """Rows grouped by parent; by level, the same sub-assembly listed twice must say the same twice."""
    runs: dict[str, list[list[Reading]]] = defaultdict(list)
    current: dict[str, list[Reading]] = {}
    for reading in plan.rows:
        if reading.is_top:
            continue
        # By level, a sub-assembly named again starts a new list of what it takes.
        if by_level:
            current[reading.part] = []
        if reading.parent not in current or not current[reading.parent]:
            current[reading.parent] = []
            runs[reading.parent].append(current[reading.parent])
        current[reading.parent].append(reading)
    existing: dict[int, list[BuildSheet]] = defaultdict(list)
    for sheet in BuildSheet.objects.filter(part__in=[p.id for p in held.values()], alternate="A").prefetch_related(
        "lines__part"
    ):
        existing[sheet.part_id].append(sheet)

    def values(r: Reading) -> tuple[str, Decimal | None, str]:
        part = held.get(r.part.upper())
        return r.part, r.quantity, r.unit or (part.unit if part else "ea")

    for parent, lists in runs.items():
        lines = lists[0]
        for other in lists[1:]:
            if not _same([values(r) for r in lines], [values(r) for r in other]):
                other[0].problems.append(
                    f"{parent} stands at row {lines[0].row} with other lines; one part has one list"
                )
            for reading in other:
                plan.becomes[reading.row] = f"as at row {lines[0].row}, once"
        part = held.get(parent.upper())
        sheets = sorted(existing.get(part.id, []), key=lambda s: revision_order(s.revision)) if part else []
        draft = next((s for s in sheets if s.status == "draft"), None)
        newest = sheets[-1] if sheets else None
        if newest is not None and parent != plan.top:
            now = [(x.part.number, x.quantity, x.unit or x.part.unit) for x in newest.lines.all() if x.part]
            if _same([values(r) for r in lines], now):
                plan.sheets.append(PlannedSheet(parent, newest.revision, True, lines))
                for reading in lines:
                    plan.becomes[reading.row] = f"stands so on the sheet of {parent} already"
                continue
        if draft is not None:
            lines[0].problems.append(
                f"{parent} has an open draft, revision {draft.revision}; release or empty it before bringing in another"
            )
        plan.sheets.append(PlannedSheet(parent, next_revision(newest.revision) if newest else "A", False, lines))


def _loops(plan: Plan) -> None:
    rows = {number: i for i, number in enumerate(dict.fromkeys(n for r in plan.rows for n in (r.parent, r.part) if n))}
    edges = [(rows[r.parent], rows[r.part]) for r in plan.rows if not r.is_top and r.parent and r.part]
    if not edges:
        return
    ends = np.array(edges)
    loop = find_loop(len(rows), ends[:, 0], ends[:, 1])
    if loop is not None:
        names = list(rows)
        path = [names[i] for i in loop]
        at = next(r for r in plan.rows if r.parent == path[0] and r.part == path[1])
        at.problems.append(f"{path[0]} would contain itself: {' → '.join(path)}")
