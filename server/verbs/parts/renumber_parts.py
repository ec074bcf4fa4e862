"""Give parts other numbers, all of them or none; the old number stays in the description."""

from typing import Any

from accounts.access import require
from definition.kept_numbers import why_kept
from definition.models.parts import Part
from django.db import transaction
from django.db.models.functions import Upper
from readings.renumbering import with_old_number
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated.records import check_number

__all__ = ["renumber_parts"]

MOST = 10_000


def renumber_parts(user: Any, changes: list[dict[str, Any]]) -> int:
    """Change numbers as a preview showed them; returns how many. Two parts may change places.

    Args:
        changes: ``{"old": number, "new": number, "version": version of the part}``.

    Raises ProblemsError naming each part by its old number: a number that cannot be one, stands twice or is another
    part's; a part that changed since, or that a released sheet names. Raises Refused.
    """
    require(user, "parts")
    problems: list[Problem] = []
    if not 0 < len(changes) <= MOST:
        raise ProblemsError([Problem("", f"1 to {MOST} parts are renumbered at once")])
    wanted: dict[str, str] = {}
    for change in changes:
        wrong = check_number(change["new"])
        if wrong:
            problems.append(Problem(change["old"], wrong))
        if change["new"].upper() in wanted:
            other = wanted[change["new"].upper()]
            problems.append(Problem(change["old"], f"{change['new']} is to be the number of {other}, too"))
        wanted[change["new"].upper()] = change["old"]
    with transaction.atomic():
        parts = {p.number: p for p in Part.objects.select_for_update().filter(number__in=[c["old"] for c in changes]).order_by("pk")}
        taken = Part.objects.exclude(pk__in=[p.pk for p in parts.values()]).annotate(any_case=Upper("number"))
        others = taken.filter(any_case__in=list(wanted)).values_list("number", flat=True)
        kept = why_kept([p.pk for p in parts.values()])
        for change in changes:
            part = parts.get(change["old"])
            if part is None:
                problems.append(Problem(change["old"], f"part {change['old']} is no longer there"))
            elif part.version != change["version"]:
                problems.append(Problem(change["old"], f"{part.number} was changed by somebody else meanwhile"))
            elif part.pk in kept:
                problems.append(Problem(change["old"], f"{part.number} {kept[part.pk]}"))
        problems += [Problem(wanted[n.upper()], f"{n} exists already") for n in sorted(others)]
        if problems:
            raise ProblemsError(problems)
        # Out of each other's way first: two parts may change places.
        for part in parts.values():
            Part.objects.filter(pk=part.pk).update(number=f"~{part.pk}")
        for change in changes:
            part = parts[change["old"]]
            part.description = with_old_number(part.description, change["old"])
            part.number = change["new"]
            part.version += 1
            part.save()
        return len(changes)
