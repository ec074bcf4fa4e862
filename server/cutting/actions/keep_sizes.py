"""Say in which sizes a material comes; and what is left of it, found by counting, or gone."""

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from definition.models.parts import Part
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.stated.reading import RecordReader
from verbs.contract import writing

from cutting.models import Leftover, StockSize

__all__ = ["add_leftover", "keep_sizes", "leftover_gone"]

_MOST, _MOST_AT_ONCE = 30, 500
_LARGEST = Decimal("1e6")


def keep_sizes(user: Any, number: str, sizes: Sequence[dict[str, str]]) -> None:
    """The sizes of a material, all of them; each ``length_mm``, ``width_mm`` empty for a bar, ``cost`` empty for the part's own.

    Raises ProblemsError naming the row, MissingError, and Refused.
    """
    with writing(user, "cutting"):
        part = _part(number)
        problems: list[Problem] = []
        rows = []
        for at, said in enumerate(sizes):
            read = {n: _size(said.get(n, ""), f"sizes[{at}].{n}", problems, n != "length_mm") for n in ("length_mm", "width_mm", "cost")}
            rows.append(StockSize(part=part, changed_by=str(user), **read))
        if len(rows) > _MOST:
            problems.append(Problem("sizes", f"a material comes in at most {_MOST} sizes"))
        if len({r.width_mm is None for r in rows}) > 1:
            problems.append(Problem("sizes", "a material comes as bars or as boards, not both"))
        if problems:
            raise ProblemsError(problems)
        part.stock_sizes.all().delete()
        StockSize.objects.bulk_create(rows)


def add_leftover(user: Any, number: str, length: str, width: str, count: str, note: str) -> None:
    """Leftovers that somebody found. Raises ProblemsError naming the field, MissingError, and Refused."""
    with writing(user, "cutting"):
        part = _part(number)
        problems: list[Problem] = []
        along, across = _size(length, "length_mm", problems, False), _size(width, "width_mm", problems, True)
        how_many = int(count) if count.strip().isdecimal() and len(count.strip()) < 6 else 0
        if not 0 < how_many <= _MOST_AT_ONCE:
            problems.append(Problem("count", f"1 to {_MOST_AT_ONCE} at once"))
        if len(note) > 200 or not note.isprintable():
            problems.append(Problem("note", "a note is a line of at most 200 characters"))
        if problems:
            raise ProblemsError(problems)
        Leftover.objects.bulk_create(
            Leftover(part=part, length_mm=along, width_mm=across, note=note.strip(), added_by=str(user)) for _ in range(how_many)
        )


def leftover_gone(user: Any, leftover_id: int) -> None:
    """A leftover is not there any more; that it was stays. Raises MissingError, and Refused."""
    with writing(user, "cutting"):
        row = Leftover.objects.select_for_update().filter(pk=leftover_id, used_by=None, gone_by="").first()
        if row is None:
            raise MissingError("This leftover is no longer there.")
        row.gone_by = str(user)
        row.save(update_fields=["gone_by"])


def _part(number: str) -> Part:
    part = Part.objects.select_for_update().filter(number=number).first()
    if part is None:
        raise MissingError(f"Part {number} is not known.")
    return part


def _size(text: str, place: str, problems: list[Problem], may_be_empty: bool) -> Decimal | None:
    if not text.strip() and may_be_empty:
        return None
    reader = RecordReader()
    size = reader.decimal(text.strip(), place)
    problems += reader.problems
    if size is not None and (not 0 < size <= _LARGEST or size != round(size, 3)):
        problems.append(Problem(place, "a number above 0, of at most three decimals"))
    if size is None and not reader.problems:
        problems.append(Problem(place, "this is needed"))
    return size
