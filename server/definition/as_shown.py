"""Rows as the screen holds them: plain values, keys as text."""

from datetime import date
from decimal import Decimal
from typing import Any

from tally_core.stated import definition as core

from definition.models.sheets import Line, Operation
from definition.models.work_centers import StandardOperation
from definition.records import IN_ROUTING, line_record, operation_record, plain_decimal, standard_record

__all__ = ["line_values", "operation_values", "plain_value", "work_values"]


def plain_value(value: Any) -> Any:
    """A value as JSON can hold it: numbers as decimal text, days as 2026-03-31."""
    if isinstance(value, Decimal):
        return plain_decimal(value)
    if isinstance(value, date):
        return value.isoformat()
    return value


def line_values(row: Line) -> dict[str, Any]:
    """A line as the screen holds it: plain values, its operation by key, its place in the list."""
    record = line_record(row)
    values = {n: plain_value(getattr(record, n)) for n in core.Line.__dataclass_fields__ if n != "issue_at"}
    return values | {"operation": str(row.operation_id) if row.operation_id else None, "position": row.position}


def operation_values(row: Operation) -> dict[str, Any]:
    """An operation as the screen holds it: plain values, and its files by key."""
    beside = str(row.beside_id) if row.beside_id else None
    return _values(operation_record(row), row.files) | {"beside": beside, "resource": row.resource}


def work_values(row: StandardOperation) -> dict[str, Any]:
    """What an entry of the library states, as the screen holds it: the fields of an operation but for its place."""
    values = _values(standard_record(row).operation, row.files)
    return {n: v for n, v in values.items() if n not in IN_ROUTING and n != "standard"}


def _values(record: core.Operation, files: list[int]) -> dict[str, Any]:
    values = {n: plain_value(getattr(record, n)) for n in core.Operation.__dataclass_fields__ if n not in ("subcontract", "resources")}
    outside = record.subcontract
    values["subcontract"] = {n: plain_value(getattr(outside, n)) for n in core.Subcontract.__dataclass_fields__} if outside else None
    return values | {"files": list(files)}
