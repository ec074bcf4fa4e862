"""Open a round, and say of which parts it is."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from accounts.access import require
from definition.models.parts import Part
from django.db import IntegrityError, transaction
from standards.models import Proposal, Round
from tally_core.basics.errors import Problem, ProblemsError

from rounds.jobs import open_round_for

__all__ = ["SCOPES", "change_round", "open_round"]

MOST_CHOSEN = 5_000
SCOPES = {"touched": "what its proposals reach", "all": "every part", "chosen": "chosen parts"}


def open_round(user: Any, fields: dict[str, Any]) -> Round:
    """Open a round. Raises ProblemsError naming each field that cannot be kept, and Refused."""
    require(user, "rounds")
    return _save(user, Round(opened_by=str(user), version=0), fields, "opened")


def change_round(user: Any, round_id: int, fields: dict[str, Any]) -> Round:
    """Change the name, the day, the note or the parts of an open round; what is left out stays as it is."""
    require(user, "rounds")
    with transaction.atomic():
        return _save(user, open_round_for(round_id, "change"), fields, "changed")


def _save(user: Any, the_round: Round, fields: dict[str, Any], what: str) -> Round:
    problems: list[Problem] = []
    name = str(fields.get("name", the_round.name)).strip()
    if not 0 < len(name) <= 80:
        problems.append(Problem("name", "a round has a name of 1 to 80 characters"))
    try:
        day = date.fromisoformat(str(fields.get("first_day") or the_round.first_day))
    except ValueError:
        day = date.min
    if not date(2000, 1, 1) <= day < date(2100, 1, 1):
        problems.append(Problem("first_day", "say the day from which its standards hold, like 2027-01-01"))
    scope = fields.get("scope", the_round.scope)
    if scope not in SCOPES:
        problems.append(Problem("scope", f"a round is of {', '.join(SCOPES)}, not {str(scope)[:20]}"))
    chosen = _chosen(fields.get("chosen"), problems)
    if problems:
        raise ProblemsError(problems)
    the_round.name, the_round.first_day, the_round.scope = name, day, scope
    the_round.note = str(fields.get("note", the_round.note))[:2000]
    the_round.version += 1
    the_round._history_user, the_round._change_reason = user, what
    try:
        with transaction.atomic():
            the_round.save()
            if chosen is not None:
                the_round.chosen.set(chosen)
    except IntegrityError:
        raise ProblemsError([Problem("name", f"there is a round {name} already")]) from None
    if the_round.scope == "chosen":
        outside = _outside(the_round)
        if outside:
            raise ProblemsError([Problem("chosen", f"{', '.join(outside)}: it proposes inputs of parts that are not among them")])
    return the_round


def _chosen(numbers: Sequence[str] | None, problems: list[Problem]) -> list[Part] | None:
    if numbers is None:
        return None
    if len(numbers) > MOST_CHOSEN:
        problems.append(Problem("chosen", f"at most {MOST_CHOSEN:,} parts are chosen one by one; a round can be of every part"))
        return None
    found = {p.number: p for p in Part.objects.filter(number__in=numbers).exclude(kind="phantom")}
    missing = [n for n in numbers if n not in found]
    if missing:
        problems.append(Problem("chosen", f"{', '.join(missing[:5])}: no such part, or one that is not costed on its own"))
    return list(found.values())


def _outside(the_round: Round) -> list[str]:
    """Parts whose inputs a round proposes though they are not among those chosen."""
    proposed = Proposal.objects.filter(round=the_round).exclude(part=None).exclude(part__in=the_round.chosen.all())
    return list(proposed.values_list("part__number", flat=True).distinct()[:5])
