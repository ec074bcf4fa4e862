"""Exchange what a table names on chosen sheets, in one step that one step takes back."""

from collections.abc import Mapping
from typing import Any

from definition.models.sheets import BuildSheet, Line
from definition.records import plain_decimal
from django.utils.timezone import now
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet

from substitution.models import Substituted, SubstitutionTable
from substitution.planned import exchanges_of

__all__ = ["substitute", "take_back"]


def _values(line: Line) -> dict[str, Any]:
    """What a substitution moves of a line."""
    return {
        "part": line.part.number if line.part else None,
        "quantity": plain_decimal(line.quantity),
        "unit": line.unit,
        "fixed_loss": plain_decimal(line.fixed_loss) or "0",
    }


def substitute(user: Any, table_id: int, sheets: Mapping[int, int], reason: str) -> Substituted:
    """Drafts directly, released sheets through their draft; all of them or none.

    Args:
        sheets: sheet id → the version that was looked at.

    Raises ProblemsError naming the sheet or line that cannot be done, LoopError, MissingError and Refused.
    """
    with writing(user, "sheets"):
        table = SubstitutionTable.objects.filter(pk=table_id).first()
        if table is None:
            raise MissingError("This table is no longer there.")
        words = " ".join(reason.split())
        if not 0 < len(words) <= 200 or not words.isprintable():
            raise ProblemsError([Problem("reason", "say why, in 1 to 200 characters")])
        found = {
            s.pk: s
            for s in BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(pk__in=list(sheets)).order_by("pk")
        }
        problems = [Problem(f"sheet {key}", "this sheet is no longer there") for key in sheets.keys() - found.keys()]
        problems += [
            Problem(f"sheet {s.pk}", f"{s} was changed meanwhile; look at it again") for s in found.values() if s.version != sheets[s.pk]
        ]
        if not sheets:
            problems.append(Problem("sheets", "choose the sheets on which it is exchanged"))
        if problems:
            raise ProblemsError(problems)
        told = f"substituted by {table.name}: {words}"
        said = []
        for sheet in found.values():
            draft = sheet if sheet.status == "draft" else open_sheet(user, sheet.part.number, sheet.alternate, reason=told)
            lines = list(draft.lines.select_related("part"))
            exchanges = exchanges_of(table.rows, lines)
            stopped = [Problem(f"sheet {sheet.pk}", f"{sheet}, item {x.line.item}: {x.stops}") for x in exchanges if x.stops]
            if stopped:
                raise ProblemsError(stopped)
            if not exchanges:
                continue
            kept = []
            for x in exchanges:
                after = {
                    "part": x.new.number,
                    "quantity": plain_decimal(x.quantity),
                    "unit": x.unit,
                    "fixed_loss": plain_decimal(x.fixed_loss) or "0",
                }
                kept.append({"line": str(x.line.pk), "before": _values(x.line), "after": after})
            changes = [{"table": "line", "id": x.line.pk, "before": {}, "after": k["after"]} for x, k in zip(exchanges, kept, strict=True)]
            edit_sheet(user, draft.pk, draft.version, changes, told)
            said.append({"sheet": draft.pk, "part": sheet.part.number, "lines": kept})
        if not said:
            raise ProblemsError([Problem("sheets", "the table names nothing on these sheets")])
        return Substituted.objects.create(
            table=table.name, reason=words, said={"format": Substituted.FORMAT, "sheets": said}, made_by=str(user)
        )


def take_back(user: Any, substituted_id: int) -> Substituted:
    """Every line is again what it was before; a line that was changed since stops it, and nothing is taken back.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "sheets"):
        row = Substituted.objects.select_for_update().filter(pk=substituted_id).first()
        if row is None:
            raise MissingError("This substitution is no longer there.")
        if row.undone_at is not None:
            raise ProblemsError([Problem("", f"{row.undone_by} took it back already")])
        problems: list[Problem] = []
        for kept in row.said["sheets"]:
            sheet = BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(pk=kept["sheet"]).first()
            if sheet is None or sheet.status != "draft":
                problems.append(Problem(kept["part"], f"the draft of {kept['part']} is {'gone' if sheet is None else sheet.status}"))
                continue
            lines = {str(x.pk): x for x in sheet.lines.select_related("part")}
            moved = [k for k in kept["lines"] if k["line"] not in lines or _values(lines[k["line"]]) != k["after"]]
            if moved:
                problems.append(Problem(kept["part"], f"{len(moved)} of its lines on {sheet} were changed since"))
                continue
            changes = [{"table": "line", "id": lines[k["line"]].pk, "before": {}, "after": k["before"]} for k in kept["lines"]]
            edit_sheet(user, sheet.pk, sheet.version, changes, f"substitution by {row.table} taken back")
        if problems:
            raise ProblemsError(problems)
        row.undone_by, row.undone_at = str(user), now()
        row.save(update_fields=["undone_by", "undone_at"])
        return row
