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

#: By kind, the fields that tell something of a row; the rest are its name, or rows of their own.
_FIELDS: dict[str, tuple[str, ...]] = {
    "parts": tuple(f.name for f in fields(Part) if f.name not in ("number", "own_values")),
    "sheets": ("batch", "reference"),
    "lines": tuple(f.name for f in fields(Line)),
    "operations": tuple(f.name for f in fields(Operation)),
}
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
    """A row of one side: its record, and where it stands. What more there is to it is asked for when it is needed: mostly it is not."""

    record: Any
    place: Mapping[str, Any]
    side: "_Side"

    def values(self) -> dict[str, Any]:
        """Its fields, as they are compared."""
        return self.side.values(self.record)

    def beside(self) -> Any:
        """What its fields rest on beside the record: two that are the same in both need no look at each field."""
        match self.record:
            case Line():
                return self.side.unit_of(self.record)
            case Part(number=number):
                return self.side.definition.maker_numbers.get(number) or []
        return None

    @property
    def lineage(self) -> str | None:
        """What a line is known by."""
        return self.side.of.lineage.get(id(self.record))

    @property
    def kept(self) -> bool:
        """It was added by hand where it is made (H4)."""
        return id(self.record) in self.side.of.by_hand

    @property
    def open(self) -> frozenset[str]:
        """Of an agreed row, the fields that were not agreed."""
        return self.side.of.open.get(id(self.record), _NONE)

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
        self.names = {k: names if compared is None else tuple(n for n in names if n in compared.get(k, ())) for k, names in _FIELDS.items()}
        definition = of.definition
        self.units = {p.number: p.unit for p in definition.parts}
        self.sheets = _sheets_that_count(definition.sheets, day)

    def parts(self) -> list[_Kept]:
        return [_Kept(p, {"part": p.number}, self) for p in self.definition.parts]

    def rows(self, records: Sequence[Any], place: Mapping[str, Any]) -> list[_Kept]:
        return [_Kept(record, place, self) for record in records]

    def values(self, record: Any) -> dict[str, Any]:
        """The fields of a record that are compared."""
        match record:
            case Line():
                return self._line(record)
            case Operation():
                return _values(record, self.names["operations"])
            case Sheet():
                return _values(record, self.names["sheets"])
        return self._part(record)

    def _part(self, part: Part) -> dict[str, Any]:
        values = _values(part, self.names["parts"])
        if self.compared is None:
            values |= {f"own_values.{n}": v for n, v in sorted(part.own_values.items())}
            numbers = self.definition.maker_numbers.get(part.number)
            values["maker_numbers"] = plain_value(numbers) if numbers else []
        return values

    def _line(self, line: Line) -> dict[str, Any]:
        """The fields of a line; the unit is the part's where the line states none."""
        values = _values(line, self.names["lines"])
        # In whatever order they stand, they are the same places.
        if "reference_designators" in values:
            values["reference_designators"] = sorted(line.reference_designators)
        if "unit" in values:
            values["unit"] = self.unit_of(line)
        return values

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


def _values(record: Any, names: Sequence[str]) -> dict[str, Any]:
    return {n: plain_value(getattr(record, n)) for n in names}


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
    line_keys = _LINE_KEYS if any(s.of.lineage for s in sides if s) else _LINE_KEYS[1:]
    keys = dict.fromkeys([*here.sheets, *there.sheets])
    for key in keys:
        sheets = [s.sheets.get(key) if s else None for s in sides]
        names = {"parent": key[0], "alternate": key[1]}
        of = list(zip(sheets, sides, strict=True))
        rows.take("sheets", [side.rows([s], names) if s and side else [] for s, side in of], [lambda k: True])
        lines = [side.rows(s.lines, names) if s and side else [] for s, side in of]
        rows.take("lines", lines, line_keys, _same_amount)
        operations = [side.rows(s.operations, names) if s and side else [] for s, side in of]
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
        amount = (None if line.quantity is None else in_base(line.quantity, v["unit"]), in_base(line.fixed_loss, v["unit"]))
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
            both = here is not None and there is not None
            row = self._both(before, here, there, alike) if both else _alone(before, here, there, alike)  # type: ignore[arg-type]
            if row is None:
                place = (here or there).place  # type: ignore[union-attr]
                agreeing.append((place, _records(before, here, there)))
            else:
                rows.append(row)

    def _both(self, before: _Kept | None, here: _Kept, there: _Kept, alike: Any) -> Row | None:
        if here.record == there.record and here.beside() == there.beside():
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


def _records(before: _Kept | None, here: _Kept | None, there: _Kept | None) -> Triple:
    return before and before.record, here and here.record, there and there.record


def comparison_as_json(made: Comparison) -> dict[str, Any]:
    """The comparison as the contract prints it, and beside it heads of sheets and operations."""
    return {kind: [_row_as_json(row) for row in getattr(made, kind)] for kind in ("parts", "lines", "sheets", "operations")}


def _row_as_json(row: Row) -> dict[str, Any]:
    found = [
        {"field": f.name, "agreed": f.agreed, "ours": f.ours, "theirs": f.theirs, "verdict": f.verdict, "proposal": f.proposal}
        for f in row.fields
    ]
    return {**row.names, "verdict": row.verdict, "was_agreed": row.was_agreed, "proposal": row.proposal, "fields": found}
