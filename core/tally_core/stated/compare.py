"""Two sheets side by side: which lines and operations answer to one another, and in which fields they differ."""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, fields
from datetime import date
from decimal import Decimal
from typing import Any, TypeVar

from .definition import Line, Operation, Resource, Sheet, Subcontract

__all__ = ["Difference", "compare_sheets", "pair"]

T = TypeVar("T")

#: What a head holds besides its name.
_HEAD = ("batch", "status", "effective_from", "effective_to")


@dataclass(frozen=True, slots=True)
class Difference:
    """One row of a comparison.

    ``left`` and ``right`` are indexes into the lines or operations of either sheet; None where only the other has it.
    ``fields`` holds (name, left, right) as text, None for what is not stated.
    """

    table: str  # sheet | operation | line
    left: int | None
    right: int | None
    fields: tuple[tuple[str, str | None, str | None], ...]

    @property
    def state(self) -> str:
        """``same``, ``changed``, ``only left`` or ``only right``."""
        if self.left is None or self.right is None:
            return "only right" if self.left is None else "only left"
        return "changed" if self.fields else "same"


def pair(left: Sequence[T], right: Sequence[T], keys: Sequence[Callable[[T], Hashable | None]]) -> list[tuple[int | None, int | None]]:
    """Indexes that answer to one another: by the first key, what is left by the next, and so on.

    A key of None pairs nothing. The pairs come in the order of the right, each of those only on the left where it stood.

    >>> pair(["a1", "b"], ["b", "a2"], [lambda x: x, lambda x: x[0]])
    [(1, 0), (0, 1)]
    """
    partner: dict[int, int] = {}
    taken: set[int] = set()
    for key in keys:
        waiting: dict[Hashable, list[int]] = {}
        for i, item in enumerate(left):
            if i not in taken and key(item) is not None:
                waiting.setdefault(key(item), []).append(i)
        for j, item in enumerate(right):
            if j not in partner and waiting.get(key(item)):
                partner[j] = waiting[key(item)].pop(0)
                taken.add(partner[j])
    pairs: list[tuple[int | None, int | None]] = [(partner.get(j), j) for j in range(len(right))]
    for i in range(len(left)):
        if i not in taken:
            # After the row that the one before it on the left answers to.
            place = next((n for n, (a, _) in enumerate(pairs) if i and a == i - 1), len(pairs) - 1 if i else -1)
            pairs.insert(place + 1, (i, None))
    return pairs


def _text(value: Any) -> str | None:
    if value is None or value == "" or value == []:
        return None
    if isinstance(value, bool):
        return "yes" if value else None
    if isinstance(value, Decimal):
        return f"{value.normalize():f}"
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, Resource):
        stated = {f.name: _text(getattr(value, f.name)) for f in fields(Resource)}
        return "; ".join(f"{name.replace('_', ' ')} {text}" for name, text in stated.items())
    if isinstance(value, list):
        return ", ".join((_text(v) or "") if isinstance(v, Resource) else str(v) for v in value)
    return str(value)


def _values(record: Any, names: Sequence[str]) -> dict[str, str | None]:
    found: dict[str, str | None] = {}
    for name in names:
        value = getattr(record, name)
        if name == "subcontract":
            held = value or Subcontract()
            found |= {n: _text(getattr(held, n)) if value else None for n in Subcontract.__dataclass_fields__}
        else:
            found[name] = _text(value)
    return found


def _differing(left: Any, right: Any, names: Sequence[str]) -> tuple[tuple[str, str | None, str | None], ...]:
    a, b = _values(left, names), _values(right, names)
    return tuple((name, a[name], b[name]) for name in a if a[name] != b[name])


def compare_sheets(left: Sheet, right: Sheet) -> list[Difference]:
    """Every row of two sheets, paired: first the head, then the operations, then the lines.

    Lines answer to one another by part and item, else by part, else by item (a part exchanged); operations by sequence,
    else by name. Common practice: an item number keeps its place while its part may change.
    """
    rows = [Difference("sheet", 0, 0, _differing(left, right, _HEAD))]
    names = [f.name for f in fields(Operation)]
    for i, j in pair(left.operations, right.operations, [lambda o: o.sequence, lambda o: o.name or None]):
        both = _differing(left.operations[i], right.operations[j], names) if i is not None and j is not None else ()
        rows.append(Difference("operation", i, j, both))
    names = [f.name for f in fields(Line)]
    by: list[Callable[[Line], Hashable | None]] = [
        lambda x: (x.kind, x.part, x.item, x.option, x.option_action) if x.part else None,
        lambda x: (x.kind, x.part) if x.part else ("text", x.text),
        lambda x: x.item,
    ]
    for i, j in pair(left.lines, right.lines, by):
        both = _differing(left.lines[i], right.lines[j], names) if i is not None and j is not None else ()
        rows.append(Difference("line", i, j, both))
    return rows
