"""Keep a table of substitution under its name, or let it go."""

from collections.abc import Sequence
from typing import Any

from definition.models.parts import Part
from readings.replacing import read_ratio
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import held, writing

from substitution.models import SubstitutionTable
from substitution.planned import folded

__all__ = ["MOST_ROWS", "drop_table", "keep_table"]

MOST_ROWS = 5000


def keep_table(user: Any, table_id: int | None, version: int | None, name: str, rows: Sequence[dict[str, str]]) -> SubstitutionTable:
    """A new table, or one that is there told anew.

    Raises ProblemsError placing each problem at its row ``rows[n].field``, MissingError and Refused.
    """
    with writing(user, "sheets"):
        words = " ".join(name.split())
        problems: list[Problem] = []
        if not 0 < len(words) <= 80 or not words.isprintable():
            problems.append(Problem("name", "a table has a name of 1 to 80 characters"))
        elif SubstitutionTable.objects.filter(name__iexact=words).exclude(pk=table_id or 0).exists():
            problems.append(Problem("name", f"there is a table {words} already"))
        if len(rows) > MOST_ROWS:
            problems.append(Problem("rows", f"a table has at most {MOST_ROWS:,} rows"))
        kept, found = _checked(rows[:MOST_ROWS])
        if problems or found:
            raise ProblemsError([*problems, *found])
        if table_id is None:
            table = SubstitutionTable(name=words)
        else:
            table = held(SubstitutionTable.objects.filter(pk=table_id), version, "this table", "This table is no longer there.")
            table.version += 1
        table.name, table.rows, table.changed_by = words, kept, str(user)
        table._history_user = user
        table.save()
        return table


def _checked(rows: Sequence[dict[str, str]]) -> tuple[list[dict[str, str]], list[Problem]]:
    problems: list[Problem] = []
    kept: list[dict[str, str]] = []
    seen: dict[str, int] = {}
    numbers = {str(row.get("part", "")).strip().upper() for row in rows}
    known = {p.number.upper(): p for p in Part.objects.filter(number__in=numbers)}
    for i, row in enumerate(rows):
        code, number = " ".join(str(row.get("code", "")).split()), str(row.get("part", "")).strip().upper()
        if not 0 < len(code) <= 200 or not code.isprintable():
            problems.append(Problem(f"rows[{i}].code", "what is generic has a number or words"))
        elif folded(code) in seen:
            problems.append(Problem(f"rows[{i}].code", f"{code} stands in row {seen[folded(code)] + 1} already"))
        seen.setdefault(folded(code), i)
        part = known.get(number)
        if part is None:
            problems.append(Problem(f"rows[{i}].part", f"part {number or '(empty)'} is not known"))
        elif folded(code) == folded(part.number):
            problems.append(Problem(f"rows[{i}].part", f"{part.number} cannot stand for itself"))
        goes, comes = str(row.get("goes", "") or "1").strip(), str(row.get("comes", "") or "1").strip()
        try:
            read_ratio(goes, comes)
        except ProblemsError as error:
            problems += [Problem(f"rows[{i}].{p.place}", p.message) for p in error.problems]
        kept.append(
            {
                "code": code,
                "part": part.number if part else number,
                "goes": goes,
                "comes": comes,
                "note": str(row.get("note", "")).strip()[:200],
            }
        )
    return kept, problems


def drop_table(user: Any, table_id: int) -> None:
    """Let a table go; what was exchanged by it stays, and can be taken back. Raises MissingError and Refused."""
    with writing(user, "sheets"):
        table = SubstitutionTable.objects.select_for_update().filter(pk=table_id).first()
        if table is None:
            raise MissingError("This table is no longer there.")
        table._history_user = user
        table.delete()
