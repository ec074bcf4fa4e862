"""Decide whose state is to stand: of fields, of rows that one side has, of many at once."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.timezone import now
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.handover.comparing import Row
from verbs.contract import writing

from handover.actions.read_again import open_one
from handover.looking import Look, decided_together, look_at, said_of
from handover.models import Decision

__all__ = ["Decided", "choices_of", "decide"]


@dataclass(frozen=True, slots=True)
class Decided:
    """One decision. ``field`` is empty for a row as a whole; ``choice`` ours, theirs, leave, or empty to think again; ``of`` as it was shown."""

    row: str
    field: str
    choice: str
    of: str


def choices_of(look: Look, kind: str, row: Row) -> list[str]:
    """What can be decided of a row."""
    if row.kept:
        return []
    _, here, there = row.records
    if here is not None and there is not None:
        return ["ours", "theirs", "leave"]
    if kind == "parts":
        # Others may use it: it can be made on the side that lacks it, and is taken away on none.
        return ["ours" if here is not None else "theirs", "leave"]
    if kind == "sheets":
        return ["ours", "leave"] if here is not None else ["theirs", "leave"]
    return ["ours", "theirs", "leave"]


def decide(user, handover_id: int, decisions: Sequence[Decided]) -> None:
    """Take some decisions, all or none.

    Raises MissingError, Refused, TallyError where the handover has ended, and ProblemsError where a row is no longer as it was shown.
    """
    with writing(user, "handover"):
        handover = open_one(handover_id)
        if handover.theirs is None:
            raise TallyError("The other side was not read yet.")
        look = look_at(handover)
        problems = []
        for d in decisions:
            kind, row = look.rows.get(d.row, ("", None))
            if row is None:
                problems.append(Problem(d.row, "it agrees by now, or is gone; look at it again"))
            elif said_of(row, d.field) != d.of or (d.field and all(f.name != d.field for f in row.fields)):
                problems.append(Problem(d.row, "it moved since it was shown; look at it again"))
            elif d.choice and d.choice not in choices_of(look, kind, row):
                problems.append(Problem(d.row, "that cannot be decided of this row"))
        if problems:
            raise ProblemsError(problems)
        wanted: dict[tuple[str, str], tuple[str, str]] = {}
        for d in decisions:
            kind, row = look.rows[d.row]
            for name in decided_together(kind, row, d.field) if d.field else [""]:
                wanted[d.row, name] = (d.choice, said_of(row, name))
        rows = [
            Decision(handover=handover, row=key, field=name, choice=choice, of=of, by=str(user), at=now())
            for (key, name), (choice, of) in wanted.items()
            if choice
        ]
        for (key, name), (choice, _) in wanted.items():
            if not choice:
                Decision.objects.filter(handover=handover, row=key, field=name).delete()
        Decision.objects.bulk_create(
            rows,
            batch_size=2000,
            update_conflicts=True,
            unique_fields=["handover", "row", "field"],
            update_fields=["choice", "of", "by", "at"],
        )
        handover.version += 1
        handover.save(update_fields=["version"])
