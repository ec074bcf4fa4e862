"""What an order rests on as plain values, as it is kept: format 2. Format 1 named the two rates by the hour that there were beside labor."""

from collections.abc import Mapping
from dataclasses import fields
from fractions import Fraction
from typing import Any

from ..basics.errors import TallyError
from .expected import ExpectedLine, ExpectedOperation, OrderPlan, Rates

__all__ = ["FORMAT", "plain_plan", "read_plan"]

FORMAT = 2


def _text(value: Any) -> Any:
    if isinstance(value, Fraction):
        return str(value)  # "3/7" where it is no decimal: nothing is lost
    if isinstance(value, Mapping):
        return {name: _text(amount) for name, amount in value.items()}
    if isinstance(value, Rates | ExpectedLine | ExpectedOperation):
        # What is as it would be anyway is not kept.
        return {
            f.name: _text(getattr(value, f.name))
            for f in fields(value)
            if f.name in ("part", "operation", "sequence") or getattr(value, f.name) != _default(type(value), f.name)
        }
    return value


def _default(record: type, name: str) -> Any:
    given = next(f for f in fields(record) if f.name == name)
    return given.default_factory() if callable(given.default_factory) else given.default


def plain_plan(plan: OrderPlan) -> dict[str, Any]:
    """The plan as JSON values, numbers exact as text."""
    return {
        "format": FORMAT,
        "quantity": str(plan.quantity),
        "operations": [_text(o) for o in plan.operations],
        "lines": [_text(line) for line in plan.lines],
    }


def _read(record: type, said: Mapping[str, Any]) -> Any:
    given: dict[str, Any] = {}
    for f in fields(record):
        if f.name not in said:
            continue
        value = said[f.name]
        if f.name in ("price", "by_hour"):
            value = {name: Fraction(amount) for name, amount in value.items()}
        elif f.name == "rates":
            of_format_1 = {name: value[name] for name in ("machine", "overhead") if name in value}
            value = _read(Rates, value | ({"by_hour": of_format_1} if of_format_1 else {}))
        elif isinstance(value, str) and f.name not in ("part", "run_basis"):
            value = Fraction(value)
        given[f.name] = value
    return record(**given)


def read_plan(said: Mapping[str, Any]) -> OrderPlan:
    """The plan that was kept. Raises TallyError for a format that is newer than this program."""
    if said.get("format") not in (1, FORMAT):
        raise TallyError(f"This order is kept in format {said.get('format')}, which this program does not read.")
    return OrderPlan(
        Fraction(said["quantity"]),
        [_read(ExpectedOperation, o) for o in said["operations"]],
        [_read(ExpectedLine, line) for line in said["lines"]],
    )
