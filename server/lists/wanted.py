"""What a list is to be for its reader: how its rows stand, its columns under the reader's headings, what is kept out."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from tally_core.basics.errors import Problem, ProblemsError

from lists.columns import COLUMNS, OWN

__all__ = ["ARRANGEMENTS", "Wanted", "of_plain", "read_wanted", "without_money"]

#: How rows may stand, in words for people.
ARRANGEMENTS = {
    "indented": "every level, each beneath what takes it",
    "one level": "the lines of the sheet itself",
    "summed": "every part once, over all levels",
    "top": "every part of the sheet itself once",
    "operations": "the lines beneath the operation that takes them",
    "products": "the products alone",
}
#: What a kept list is written in.
FORMAT = 1
_MOST_COLUMNS, _MOST_OUT, _LONGEST = 60, 500, 120
_USUAL = ("item", "number", "description", "quantity", "unit")


@dataclass(frozen=True, slots=True)
class Wanted:
    """A list as its reader wants it.

    Attributes:
        arrangement: a word of :data:`ARRANGEMENTS`.
        columns: keys of ``lists.columns.COLUMNS``, or ``own:`` and the name of a field of a class; each with its heading.
        sort: the key of the column by which rows that stand side by side are put in order; empty for the order of the sheet.
        down: the largest first.
        keep_out: ``kind:`` and a kind of part or line, ``class:`` and a class, ``part:`` and a number; with all that stands beneath.
        decimal: the decimal sign of a file of text: a point or a comma.
    """

    arrangement: str = "indented"
    columns: tuple[tuple[str, str], ...] = field(default=tuple((key, COLUMNS[key].title) for key in _USUAL))
    sort: str = ""
    down: bool = False
    keep_out: tuple[str, ...] = ()
    decimal: str = "."

    def plain(self) -> dict[str, Any]:
        """As it is kept."""
        return {
            "format": FORMAT,
            "arrangement": self.arrangement,
            "columns": [list(c) for c in self.columns],
            "sort": self.sort,
            "down": self.down,
            "keep_out": list(self.keep_out),
            "decimal": self.decimal,
        }


def read_wanted(arrangement: str, columns: Sequence[str], sort: str, down: bool, keep_out: Sequence[str], decimal: str) -> Wanted:
    """A list from what an address says; a column is a key, or ``key=heading``. Raises ProblemsError naming what is wrong."""
    problems = []
    if arrangement not in ARRANGEMENTS:
        problems.append(Problem("arrangement", f"rows stand as one of {', '.join(ARRANGEMENTS)}"))
    if decimal not in (".", ","):
        problems.append(Problem("decimal", "the decimal sign is a point or a comma"))
    read: dict[str, str] = {}
    for said in columns:
        key, _, heading = said.partition("=")
        known = COLUMNS.get(key)
        if known is None and not (key.startswith(OWN) and 0 < len(key) - len(OWN) <= 60):
            problems.append(Problem("column", f"there is no column {key[:60]!r}; there are {', '.join(COLUMNS)}"))
            continue
        if len(heading) > _LONGEST or not heading.isprintable():
            problems.append(Problem("column", f"a heading is a line of at most {_LONGEST} characters"))
            continue
        read[key] = heading.strip() or (known.title if known else key.removeprefix(OWN))
    if len(read) > _MOST_COLUMNS or len(columns) > _MOST_COLUMNS:
        problems.append(Problem("column", f"a list has at most {_MOST_COLUMNS} columns"))
    if sort and sort not in read and read:
        problems.append(Problem("sort", "a list is put in order by one of its columns"))
    if len(keep_out) > _MOST_OUT or any(w.partition(":")[0] not in ("kind", "class", "part") or len(w) > 80 for w in keep_out):
        problems.append(Problem("keep_out", "what is kept out is kind:…, class:… or part:…"))
    if problems:
        raise ProblemsError(problems)
    return Wanted(
        arrangement,
        tuple(read.items()) or Wanted().columns,
        sort if read or sort in _USUAL else "",
        down,
        tuple(dict.fromkeys(keep_out)),
        decimal,
    )


def without_money(wanted: Wanted, own: Collection[str]) -> Wanted:
    """The same without its columns of money, and not in the order of one; ``own``: fields of classes that are money."""
    costly = {key for key, _ in wanted.columns if (key in COLUMNS and COLUMNS[key].holds == "money") or key.removeprefix(OWN) in own}
    columns = tuple(column for column in wanted.columns if column[0] not in costly)
    return replace(wanted, columns=columns or Wanted().columns, sort="" if wanted.sort in costly else wanted.sort)


def of_plain(value: dict[str, Any]) -> Wanted:
    """A kept list read back; columns that are no more are left away."""
    return Wanted(
        value["arrangement"] if value.get("arrangement") in ARRANGEMENTS else "indented",
        tuple((k, h) for k, h in value["columns"] if k in COLUMNS or k.startswith(OWN)),
        value.get("sort", ""),
        bool(value.get("down")),
        tuple(value.get("keep_out", ())),
        value.get("decimal", "."),
    )
