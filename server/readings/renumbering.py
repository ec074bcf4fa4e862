"""What numbers parts would get: the next ones of their class, or by their position in a tree. Writes nothing."""

from typing import Any

from definition.kept_numbers import why_kept
from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet, Line
from definition.records import class_record
from django.db.models.functions import Upper
from django.utils.timezone import localdate
from loading.reads import load_product
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import COMPONENT, MADE
from tally_core.cost.answers import Basis
from tally_core.stated.numbering import next_numbers, numbers_by_position

__all__ = ["by_class", "by_position", "free_numbers", "with_old_number"]


def with_old_number(description: str, old: str) -> str:
    """A description in which the old number can still be found.

    >>> with_old_number("Base plate", "PLATE_V2"), with_old_number("", "PLATE_V2")
    ('Base plate (PLATE_V2)', 'PLATE_V2')
    """
    if old.upper() in description.upper():
        return description
    return f"{description} ({old})" if description else old


def _class(name: str) -> PartClass:
    row = PartClass.objects.filter(name=name).first()
    if row is None:
        raise TallyError(f"class {name} has no numbering yet" if name else "a part without a class has no numbering")
    return row


def _next(row: PartClass, count: int) -> list[str]:
    # The prefix narrows the search down; next_numbers reads the rest.
    taken = Part.objects.filter(number__istartswith=row.prefix).values_list("number", flat=True)
    try:
        return next_numbers(class_record(row), taken.iterator(), count)
    except ValueError as error:
        raise TallyError(str(error)) from None


def free_numbers(class_name: str, count: int) -> list[str]:
    """The next numbers of a class. Raises TallyError when it has no numbering, or too few digits."""
    return _next(_class(class_name), count)


def by_class(numbers: list[str]) -> list[dict[str, Any]]:
    """The next numbers of their classes for some parts, in the order given; parts that have one keep it."""
    parts = {p.number: p for p in Part.objects.filter(number__in=numbers)}
    classes = {c.name: c for c in PartClass.objects.filter(name__in={p.part_class for p in parts.values()})}
    kept = why_kept([p.pk for p in parts.values()])
    waiting: dict[str, list[Part]] = {}
    rows = []
    for number in dict.fromkeys(numbers):
        part = parts.get(number)
        if part is None:
            continue
        row = classes.get(part.part_class)
        if row is None or not row.digits:
            word = f"class {part.part_class} has no numbering" if part.part_class else "is in no class"
            kept.setdefault(part.pk, word)
        elif number.startswith(row.prefix) and number[len(row.prefix) :].isdigit():
            kept.setdefault(part.pk, "has a number of its class already")
        if part.pk not in kept:
            waiting.setdefault(part.part_class, []).append(part)
        rows.append(part)
    new: dict[int, str] = {}
    for name, waits in waiting.items():
        new |= dict(zip((p.pk for p in waits), _next(classes[name], len(waits)), strict=True))
    return _preview(rows, new, kept)


def by_position(sheet: BuildSheet, prefix: str, made_only: bool) -> list[dict[str, Any]]:
    """Numbers by position for all that stands below a sheet, drafts included: 1, 1.1, 1.1.2 behind a prefix."""
    loaded = load_product(sheet.part, Basis(localdate(), drafts=True), sheet)
    lines, keys = loaded.lines, loaded.part_ids.tolist()
    takes: dict[int, list[int]] = {}
    for parent, child, kind in zip(lines.parent.tolist(), lines.child.tolist(), lines.kind.tolist(), strict=True):
        if child >= 0 and kind == COMPONENT:
            takes.setdefault(keys[parent], []).append(keys[child])
    numbers = numbers_by_position(sheet.part_id, takes, prefix)
    if made_only:
        made = {keys[row] for row, kind in enumerate(loaded.parts.kind.tolist()) if kind == MADE}
        numbers = {part: number for part, number in numbers.items() if part in made}
    parts = Part.objects.in_bulk(list(numbers))
    kept = why_kept(list(numbers))
    elsewhere = (
        Line.objects.filter(part_id__in=list(numbers))
        .exclude(sheet_id__in=list(loaded.sheet_of.values()))
        .values_list("part_id", "sheet__part__number")
    )
    for part, user in elsewhere:
        kept.setdefault(part, f"stands on {user}, too, which is not below this sheet")
    same = {key for key, number in numbers.items() if parts[key].number == number}
    kept |= dict.fromkeys(same, "has this number already")
    return _preview([parts[key] for key in numbers], numbers, kept)


def _preview(parts: list[Part], new: dict[int, str], kept: dict[int, str]) -> list[dict[str, Any]]:
    moving = {p.pk for p in parts if p.pk not in kept}
    wanted = {new[key].upper() for key in moving}
    others = Part.objects.exclude(pk__in=moving).annotate(any_case=Upper("number"))
    taken = set(others.filter(any_case__in=wanted).values_list("any_case", flat=True))
    rows = []
    for part in parts:
        why = kept.get(part.pk, "")
        if not why and new[part.pk].upper() in taken:
            why = f"{new[part.pk]} exists already"
        rows.append(
            {
                "old": part.number,
                "new": part.number if why else new[part.pk],
                "description": part.description if why else with_old_number(part.description, part.number),
                "version": part.version,
                "kept": why,
            }
        )
    return rows
