"""Between database rows and the core's records."""

from dataclasses import asdict
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from tally_core.stated import definition as core
from tally_core.structure.rates import RATES

from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet, Line, Operation
from definition.models.work_centers import OperationFields, StandardOperation, WorkCenter

__all__ = [
    "IN_ROUTING",
    "class_columns",
    "class_record",
    "line_record",
    "operation_columns",
    "operation_record",
    "part_columns",
    "part_record",
    "plain_decimal",
    "prices_on",
    "resource_columns",
    "resource_record",
    "sheet_record",
    "standard_columns",
    "standard_record",
    "work_center_columns",
    "work_center_record",
]

#: What an operation of a routing has beyond one of the library.
IN_ROUTING = ("sequence", "after", "standard_version", "run_from_orders", "run_expression")
# What a row has under the names of its record; the rest is a key of another row there.
_SHARED_LINE = [n for n in core.Line.__dataclass_fields__ if n not in ("part", "unit", "issue_at", "option")]
_SHARED_OPERATION = [
    n for n in core.Operation.__dataclass_fields__ if n not in (*IN_ROUTING, "work_center", "subcontract", "standard", "resources")
]
_SHARED_SHEET = [n for n in core.Sheet.__dataclass_fields__ if n not in ("part", "lines", "operations")]
_SHARED_CLASS = [n for n in core.PartClass.__dataclass_fields__ if n != "fields"]
_RESOURCE = [n for n in core.Resource.__dataclass_fields__ if n != "work_center"]
_SUBCONTRACT = list(core.Subcontract.__dataclass_fields__)


def plain_decimal(value: Decimal | None) -> str | None:
    """A stored amount as text without idle zeros.

    >>> plain_decimal(Decimal("2.500000000"))
    '2.5'
    """
    if value is None:
        return None
    text = f"{value:f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _copy(row: Any, names) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}


def _stated(row: Any, names) -> dict[str, Any]:
    """What a record states of a row: a partner by name, and empty for none; prices as records of their own."""
    stated: dict[str, Any] = {name: row.supplier_id or "" if name == "supplier" else getattr(row, name) for name in names}
    if "prices" in stated:
        stated["prices"] = [_price_change(plain) for plain in stated["prices"]]
    return stated


def _price_change(plain: dict[str, str]) -> core.PriceChange:
    return core.PriceChange(date.fromisoformat(plain["first_day"]), Decimal(plain["unit_cost"]))


def prices_on(day: date, prices: list[dict[str, str]]) -> str | None:
    """Of the prices as a row keeps them, the one that holds on a day; none where the one it began with does."""
    held = [change for change in prices if change["first_day"] <= day.isoformat()]
    return held[-1]["unit_cost"] if held else None


def _kept(record: Any, names) -> dict[str, Any]:
    """What a row keeps of a record; :func:`_stated` turned round."""
    columns = _copy(record, names)
    if "prices" in columns:
        columns["prices"] = [
            {"first_day": c.first_day.isoformat(), "unit_cost": plain_decimal(c.unit_cost)}
            for c in sorted(columns["prices"], key=lambda c: c.first_day)
        ]
    return columns | ({"supplier_id": columns.pop("supplier") or None} if "supplier" in columns else {})


def part_record(part: Part) -> core.Part:
    """A part row as the core's record."""
    return core.Part(**_stated(part, core.Part.__dataclass_fields__))


def class_record(row: PartClass) -> core.PartClass:
    """A class row as the core's record."""
    plain = _copy(row, _SHARED_CLASS)
    return core.PartClass(**plain, fields=[core.ClassField(**f) for f in row.fields])


def class_columns(record: core.PartClass) -> dict[str, Any]:
    """What a class's row holds, from the core's record."""
    return _copy(record, _SHARED_CLASS) | {"fields": [asdict(f) for f in record.fields]}


def work_center_record(center: WorkCenter) -> core.WorkCenter:
    """A work center row as the core's record."""
    plain = _copy(center, core.WorkCenter.__dataclass_fields__)
    return core.WorkCenter(
        **plain | {"rates": [_rate_change(change) for change in center.rates], "stops": [_stop(s) for s in center.stops]}
    )


def _stop(plain: dict[str, str]) -> core.Stop:
    return core.Stop(datetime.fromisoformat(plain["start"]), datetime.fromisoformat(plain["end"]), plain["reason"])


def _rate_change(plain: dict[str, str]) -> core.RateChange:
    amounts = {name: Decimal(value) for name, value in plain.items() if name != "first_day"}
    return core.RateChange(date.fromisoformat(plain["first_day"]), **amounts)


def work_center_columns(record: core.WorkCenter) -> dict[str, Any]:
    """What a work center's row holds, from the core's record; rate changes by their day, stops by their start."""
    changes = sorted(record.rates, key=lambda c: c.first_day)
    plain = [
        {"first_day": c.first_day.isoformat()} | {n: plain_decimal(v) or "0" for n in RATES if (v := getattr(c, n)) is not None}
        for c in changes
    ]
    stops = [
        {"start": s.start.isoformat(timespec="minutes"), "end": s.end.isoformat(timespec="minutes"), "reason": s.reason}
        for s in sorted(record.stops, key=lambda s: (s.start, s.end))
    ]
    return _copy(record, core.WorkCenter.__dataclass_fields__) | {"rates": plain, "stops": stops}


def part_columns(record: core.Part) -> dict[str, Any]:
    """What a part's row holds, from the core's record."""
    return _kept(record, core.Part.__dataclass_fields__)


def operation_record(row: Operation) -> core.Operation:
    """An operation row as the core's record, without what works beside it; reads ``row.work_center`` and ``row.standard``."""
    record = _work_record(row)
    for name in IN_ROUTING:
        setattr(record, name, getattr(row, name))
    record.standard = row.standard.code if row.standard else None
    return record


def resource_record(row: Operation) -> core.Resource:
    """A row beside an operation as the core's record; reads ``row.work_center``."""
    return core.Resource(row.work_center.code if row.work_center else "", **_copy(row, _RESOURCE))


def resource_columns(record: core.Resource, operation: core.Operation, nth: int, centers: dict[str, int]) -> dict[str, Any]:
    """What a row beside an operation holds, but for the key of that."""
    stated = {n: getattr(record, n) for n in _RESOURCE}
    alone = core.Operation(operation.sequence, work_center=record.work_center, cycle_quantity=operation.cycle_quantity, **stated)
    return operation_columns(alone, centers, {}) | {"resource": nth}


def standard_record(row: StandardOperation) -> core.StandardOperation:
    """An entry of the library as the core's record; reads ``row.work_center``."""
    return core.StandardOperation(row.code, row.version, _work_record(row))


def standard_columns(record: core.StandardOperation, centers: dict[str, int]) -> dict[str, Any]:
    """What an entry's row holds besides its version; ``centers`` maps codes to keys."""
    return {"code": record.code} | _work_columns(record.operation, centers)


def _work_record(row: OperationFields) -> core.Operation:
    outside = None
    if row.outside:
        outside = core.Subcontract(**_stated(row, _SUBCONTRACT))
    center = row.work_center.code if row.work_center else None
    return core.Operation(**_copy(row, _SHARED_OPERATION), work_center=center, subcontract=outside)


def line_record(row: Line) -> core.Line:
    """A line row as the core's record; reads ``row.part``, ``row.operation`` and ``row.option``."""
    return core.Line(
        **_copy(row, _SHARED_LINE),
        part=row.part.number if row.part else None,
        unit=row.unit or None,
        issue_at=row.operation.sequence if row.operation else None,
        option=row.option.code if row.option else None,
    )


def sheet_record(sheet: BuildSheet, lines: list[Line], operations: list[Operation]) -> core.Sheet:
    """A sheet with its rows as the core's record; what works beside an operation in the order of its place."""
    beside: dict[Any, list[Operation]] = {}
    for row in operations:
        if row.beside_id is not None:
            beside.setdefault(row.beside_id, []).append(row)
    steps = []
    for row in operations:
        if row.beside_id is None:
            steps.append(operation_record(row))
            steps[-1].resources = [resource_record(x) for x in sorted(beside.get(row.id, ()), key=lambda x: x.resource)]
    return core.Sheet(part=sheet.part.number, **_copy(sheet, _SHARED_SHEET), lines=[line_record(line) for line in lines], operations=steps)


def operation_columns(record: core.Operation, centers: dict[str, int], standards: dict[str, int]) -> dict[str, Any]:
    """What an operation's row holds, from the core's record; maps hold keys by code."""
    return (
        _work_columns(record, centers)
        | _copy(record, IN_ROUTING)
        | {"standard_id": standards[record.standard] if record.standard else None}
    )


def _work_columns(record: core.Operation, centers: dict[str, int]) -> dict[str, Any]:
    outside = record.subcontract or core.Subcontract()
    return _copy(record, _SHARED_OPERATION) | {
        "work_center_id": centers[record.work_center] if record.work_center else None,
        "outside": record.subcontract is not None,
        **_kept(outside, _SUBCONTRACT),
    }


def line_columns(record: core.Line, parts: dict[str, int], options: dict[str, int]) -> dict[str, Any]:
    """What a line's row holds, from the core's record, but for its operation; maps hold database keys."""
    return _copy(record, _SHARED_LINE) | {
        "part_id": parts[record.part] if record.part else None,
        "unit": record.unit or "",
        "option_id": options[record.option] if record.option else None,
    }
