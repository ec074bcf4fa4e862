"""Two definitions and the state last agreed, side by side: parts, heads of sheets, lines and operations (rules H1 to H4)."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import date
from typing import Any

from ..basics.units import SYMBOLS, in_base
from ..stated.bundle import plain_value
from ..stated.definition import Definition, Line, Operation, Part, Sheet
from .matching import match
from .three_way import Field, Side, compare_fields, strongest, verdict_of_one_side

__all__ = ["Comparison", "Of", "Row", "Triple", "compare_definitions", "comparison_as_json"]

_SHEET = ("batch", "reference")
#: One row as agreed, ours and theirs; None where a side has none.
Triple = tuple[Any, Any, Any]
_NONE: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Of:
    """One side.

    Attributes:
        lineage: by the identity of a line, what it is known by through every revision.
        by_hand: the identities of lines that are kept by hand (H4).
        open: of an agreed state, by the identity of a record, the fields of it that were not agreed.
    """

    definition: Definition
    lineage: Mapping[int, str] = field(default_factory=dict)
    by_hand: frozenset[int] = frozenset()
    open: Mapping[int, frozenset[str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Row:
    """A part, a sheet, a line or an operation that does not agree, by its names.

    Attributes:
        proposal: of a row that one side only has, whose state of it to take, None until somebody decides.
        kept: a line that was added by hand where it is made.
        records: the row as agreed, ours and theirs.
        stated: of a row that one side only has, what it says there.
    """

    names: Mapping[str, Any]
    verdict: str
    fields: list[Field]
    was_agreed: bool
    proposal: Side | None = None
    kept: bool = False
    records: Triple = (None, None, None)
    stated: Mapping[str, Any] = field(default_factory=dict)


@dataclass(slots=True)
class Comparison:
    """What does not agree; and by kind the rows that do, each with the names of where it stands."""

    parts: list[Row] = field(default_factory=list)
    sheets: list[Row] = field(default_factory=list)
    lines: list[Row] = field(default_factory=list)
    operations: list[Row] = field(default_factory=list)
    agreeing: dict[str, list[tuple[Mapping[str, Any], Triple]]] = field(default_factory=dict)


@dataclass(slots=True)
class _Kept:
    """A row of one side: its record, where it stands, and how its fields are compared. ``kept``: added by hand where it is made (H4)."""

    record: Any
    place: Mapping[str, Any]
    values: Callable[[], dict[str, Any]]
    # What its fields rest on beside the record: two that are the same in both need no look at each field.
    beside: Any = None
    lineage: str | None = None
    kept: bool = False
    open: frozenset[str] = frozenset()

    @property
    def names(self) -> dict[str, Any]:
        """By what a person knows it."""
        match self.record:
            case Line(part=part, item=item):
                return {**self.place, "part": part, "item": item}
            case Operation(sequence=sequence, name=name):
                return {**self.place, "sequence": sequence, "name": name}
            case _:
                return dict(self.place)


class _Side:
    """One side: its parts, and of each part and alternate the sheet that counts."""

    def __init__(self, of: Of, day: date, compared: Mapping[str, Collection[str]] | None) -> None:
        self.of, self.definition, self.compared = of, of.definition, compared
        definition = of.definition
        self.units = {p.number: p.unit for p in definition.parts}
        self.sheets = _sheets_that_count(definition.sheets, day)

    def parts(self) -> list[_Kept]:
        numbers, open_ = self.definition.maker_numbers, self.of.open
        return [
            _Kept(p, {"part": p.number}, lambda p=p: self._part(p), numbers.get(p.number) or [], open=open_.get(id(p), _NONE))  # type: ignore[misc]
            for p in self.definition.parts
        ]  # fmt: skip

    def head(self, sheet: Sheet, place: Mapping[str, Any]) -> _Kept:
        def values() -> dict[str, Any]:
            return self._looked_at("sheets", {n: plain_value(getattr(sheet, n)) for n in _SHEET})

        return _Kept(sheet, place, values, open=self.of.open.get(id(sheet), _NONE))

    def line(self, line: Line, place: Mapping[str, Any]) -> _Kept:
        of = self.of
        lineage, kept = of.lineage.get(id(line)), id(line) in of.by_hand
        return _Kept(
            line, place, lambda: self.line_values(line), self.unit_of(line), lineage, kept, of.open.get(id(line), _NONE)
        )

    def operation(self, operation: Operation, place: Mapping[str, Any]) -> _Kept:
        def values() -> dict[str, Any]:
            return self._looked_at("operations", _values(operation, Operation))

        return _Kept(operation, place, values, open=self.of.open.get(id(operation), _NONE))

    def _looked_at(self, kind: str, values: dict[str, Any]) -> dict[str, Any]:
        """Of the fields of a record those that are compared."""
        if self.compared is None:
            return values
        wanted = self.compared.get(kind, ())
        return {n: v for n, v in values.items() if n in wanted}

    def _part(self, part: Part) -> dict[str, Any]:
        values = _values(part, Part, leave=("number", "own_values"))
        values |= {f"own_values.{n}": v for n, v in sorted(part.own_values.items())}
        numbers = self.definition.maker_numbers.get(part.number)
        values["maker_numbers"] = plain_value(numbers) if numbers else []
        return self._looked_at("parts", values)

    def line_values(self, line: Line) -> dict[str, Any]:
        """The fields of a line; the unit is the part's where the line states none."""
        values = _values(line, Line)
        # In whatever order they stand, they are the same places.
        values["reference_designators"] = sorted(line.reference_designators)
        values["unit"] = self.unit_of(line)
        return self._looked_at("lines", values)

    def unit_of(self, line: Line) -> str | None:
        return line.unit or self.units.get(line.part or "")


def _sheets_that_count(sheets: Sequence[Sheet], day: date) -> dict[tuple[str, str], Sheet]:
    found: dict[tuple[str, str], Sheet] = {}
    for sheet in sheets:
        key = (sheet.part, sheet.alternate)
        if key not in found or _counts(sheet, day) >= _counts(found[key], day):
            found[key] = sheet
    return found


def _counts(sheet: Sheet, day: date) -> tuple[int, date]:
    """How much a sheet counts beside others of its part and alternate: released and in force, else released, else a draft; the newest of them."""
    first = sheet.effective_from or date.min
    in_force = first <= day and (sheet.effective_to is None or day < sheet.effective_to)
    rank = {"released": 3 if in_force else 2, "draft": 1}.get(sheet.status, 0)
    return rank, first


def _values(record: Any, kind: type, leave: Sequence[str] = ()) -> dict[str, Any]:
    return {f.name: plain_value(getattr(record, f.name)) for f in fields(kind) if f.name not in leave}


def compare_definitions(
    agreed: Of | None,
    ours: Of,
    theirs: Of,
    day: date,
    owner: Callable[[str], Side | None] = lambda name: None,
    compared: Mapping[str, Collection[str]] | None = None,
) -> Comparison:
    """All that does not agree.

    Args:
        agreed: the state last agreed; None where nothing was agreed yet.
        day: of several sheets of a part and alternate, the one in force on it counts.
        owner: the side to which a field belongs by rule, or None.
        compared: by kind (parts, sheets, lines, operations) the fields that both sides know; all of them where it is not stated.
    """
    sides = [None if d is None else _Side(d, day, compared) for d in (agreed, ours, theirs)]
    here, there = sides[1], sides[2]
    assert here is not None and there is not None
    made = Comparison()
    rows = _Rows(made, owner)
    rows.take("parts", [s.parts() if s else [] for s in sides], [lambda k: k.record.number.upper()])
    keys = dict.fromkeys([*here.sheets, *there.sheets])
    for key in keys:
        sheets = [s.sheets.get(key) if s else None for s in sides]
        names = {"parent": key[0], "alternate": key[1]}
        rows.take("sheets", [[of.head(s, names)] if s and of else [] for s, of in zip(sheets, sides, strict=True)], [lambda k: True])  # fmt: skip
        lines = [[of.line(x, names) for x in s.lines] if s and of else [] for s, of in zip(sheets, sides, strict=True)]
        rows.take("lines", lines, _LINE_KEYS, _same_amount)
        operations = [
            [of.operation(x, names) for x in s.operations] if s and of else []
            for s, of in zip(sheets, sides, strict=True)
        ]
        rows.take("operations", operations, _OPERATION_KEYS)
    return made


def _what(line: Line) -> tuple[Any, ...]:
    return (line.part,) if line.part else ("text", line.text)


#: By lineage, then by item and part, then by part (H2); lines of one part that are told apart by more are matched by that first.
_LINE_KEYS: list[Callable[[_Kept], Any]] = [
    lambda k: k.lineage,
    lambda k: (_what(k.record), k.record.item, k.record.kind, k.record.option, k.record.option_action),
    lambda k: (_what(k.record), k.record.item),
    lambda k: (_what(k.record), k.record.kind, k.record.option, k.record.option_action),
    lambda k: _what(k.record),
]
_OPERATION_KEYS: list[Callable[[_Kept], Any]] = [lambda k: k.record.sequence, lambda k: k.record.name or None]


def _same_amount(rows: Sequence[_Kept | None], values: Sequence[dict[str, Any] | None]) -> None:
    """Write amounts that are the same in another unit alike: 500 mm is 0.5 m, and nobody moved it."""
    stated = [(r.record, v) for r, v in zip(rows, values, strict=True) if r and v and v.get("unit") in SYMBOLS]
    if len({v["unit"] for _, v in stated}) < 2:
        return
    first: dict[Any, dict[str, Any]] = {}
    for line, v in stated:
        amount = (
            None if line.quantity is None else in_base(line.quantity, v["unit"]),
            in_base(line.fixed_loss, v["unit"]),
        )
        same = first.setdefault(amount, v)
        v.update({n: same[n] for n in ("quantity", "fixed_loss", "unit") if n in same})


class _Rows:
    """Gathers what does not agree."""

    def __init__(self, made: Comparison, owner: Callable[[str], Side | None]) -> None:
        self.made, self.owner = made, owner

    def take(
        self,
        kind: str,
        sides: Sequence[Sequence[_Kept]],
        keys: Sequence[Callable[[_Kept], Any]],
        alike: Callable[[Sequence[_Kept | None], Sequence[dict[str, Any] | None]], None] | None = None,
    ) -> None:
        """Compare the rows of (agreed, ours, theirs). ``alike`` writes values alike that are the same in other words."""
        rows: list[Row] = getattr(self.made, kind)
        agreeing = self.made.agreeing.setdefault(kind, [])
        for before, here, there in match(sides[0], sides[1], sides[2], keys):
            if here is not None and there is not None:
                row = self._both(before, here, there, alike)
            else:
                row = _alone(before, here, there, alike)
            if row is None:
                place = (here or there).place  # type: ignore[union-attr]
                agreeing.append((place, _records(before, here, there)))
            else:
                rows.append(row)

    def _both(self, before: _Kept | None, here: _Kept, there: _Kept, alike: Any) -> Row | None:
        if here.record == there.record and here.beside == there.beside:
            return None
        ours, theirs = here.values(), there.values()
        if ours == theirs:
            return None
        agreed = before.values() if before else None
        if alike:
            alike((here, there, before), (ours, theirs, agreed))
        if before and agreed is not None:
            agreed = {n: v for n, v in agreed.items() if n not in before.open}
        found = compare_fields(agreed, ours, theirs, self.owner, before.open if before else _NONE)
        if not found:
            return None
        return Row(here.names, strongest(found), found, before is not None, records=_records(before, here, there))


def _alone(before: _Kept | None, here: _Kept | None, there: _Kept | None, alike: Any) -> Row:
    one = here or there
    assert one is not None
    values, agreed = one.values(), before.values() if before else None
    if alike and before:
        alike((one, before), (values, agreed))
    verdict, proposal = verdict_of_one_side(here is not None, before is not None, values == agreed, one.kept)
    return Row(one.names, verdict, [], before is not None, proposal, one.kept, _records(before, here, there), values)


def _records(*sides: _Kept | None) -> Triple:
    before, here, there = (None if s is None else s.record for s in sides)
    return before, here, there


def comparison_as_json(made: Comparison) -> dict[str, Any]:
    """The comparison as the contract prints it, and beside it heads of sheets and operations."""
    return {
        kind: [_row_as_json(row) for row in getattr(made, kind)] for kind in ("parts", "lines", "sheets", "operations")
    }


def _row_as_json(row: Row) -> dict[str, Any]:
    found = [
        {
            "field": f.name,
            "agreed": f.agreed,
            "ours": f.ours,
            "theirs": f.theirs,
            "verdict": f.verdict,
            "proposal": f.proposal,
        }
        for f in row.fields
    ]
    return {
        **row.names,
        "verdict": row.verdict,
        "was_agreed": row.was_agreed,
        "proposal": row.proposal,
        "fields": found,
    }
