"""Run times computed from what is known of the part that an operation makes: its fields, what its class computes, and its shape."""

from collections.abc import Iterable
from decimal import Decimal

from definition.models.parts import Part, PartClass
from definition.models.sheets import Operation
from definition.records import class_record, plain_decimal
from tally_core.stated.classes import FACTS, compute_fields
from tally_core.stated.run_times import OF_SHAPE, run_minutes

from geometry.models import PartShape

__all__ = ["known_of", "no_longer_computed"]


def known_of(parts: Iterable[Part]) -> dict[int, dict[str, float | str]]:
    """By the key of each part, the names that an expression may use and what they say of it. Two queries."""
    parts = list(parts)
    classes = {c.name: class_record(c) for c in PartClass.objects.filter(name__in={p.part_class for p in parts})}
    shapes = {s.part_id: s for s in PartShape.objects.filter(part__in=parts)}
    found: dict[int, dict[str, float | str]] = {}
    for part in parts:
        facts = {name: getattr(part, name) for name in FACTS}
        known: dict[str, float | str] = {name: float(value) for name, value in facts.items() if value is not None}
        if (own := classes.get(part.part_class)) is not None:
            said = dict(part.own_values) | {n: v for n, v in compute_fields(own, part.own_values, facts).items() if not v.startswith("–")}
            numbers = {f.name for f in own.fields if f.kind in ("number", "money", "computed")}
            known |= {name: _number(text) if name in numbers else text for name, text in said.items()}
        if (shape := shapes.get(part.pk)) is not None:
            known |= _of_shape(shape)
        found[part.pk] = known
    return found


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text


def _of_shape(shape: PartShape) -> dict[str, float | str]:
    known: dict[str, float | str] = {n: float(getattr(shape, n)) for n in ("volume_mm3", "surface_mm2") if getattr(shape, n)}
    sheet = shape.sheet or {}
    if sheet and "not" not in sheet:
        length, width = sorted(map(float, sheet["flat"]), reverse=True)
        said = (len(sheet["bends"]), sheet["cutouts"], sheet["cut_length"], sheet["thickness"], length, width)
        known |= {name: float(value) for name, value in zip(OF_SHAPE, said, strict=False)}
    return known


def no_longer_computed(part_ids: Iterable[int] | None = None) -> dict[int, list[tuple[int, str, str]]]:
    """By the key of a sheet that is not retired, operations that state another run time than their expression gives by now. Three queries at most."""
    rows = (
        Operation.objects.exclude(run_expression="")
        .exclude(sheet__status="retired")
        .select_related("sheet__part")
        .order_by("sheet", "sequence")
    )
    if part_ids is not None:
        rows = rows.filter(sheet__part__in=list(part_ids))
    operations = list(rows)
    if not operations:
        return {}
    known = known_of({o.sheet.part_id: o.sheet.part for o in operations}.values())
    found: dict[int, list[tuple[int, str, str]]] = {}
    for operation in operations:
        words = _differs(operation, known[operation.sheet.part_id])
        if words:
            found.setdefault(operation.sheet_id, []).append((operation.sequence, plain_decimal(operation.run_minutes) or "0", words))
    return found


def _differs(operation: Operation, known: dict[str, float | str]) -> str:
    """What the expression gives where that is not what is stated; empty where it is."""
    try:
        minutes = run_minutes(operation.run_expression, known)
    except ValueError as error:
        return str(error)
    stated: Decimal = operation.run_minutes
    return "" if abs(minutes - stated) <= Decimal("0.000001") else f"gives {plain_decimal(minutes)} min"
