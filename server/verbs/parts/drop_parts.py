"""Take away parts that nothing names."""

from collections.abc import Sequence
from typing import Any

from accounts.access import require
from definition.models.parts import Part
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["drop_parts"]

#: What goes with a part: it says something of that part alone.
_OWN = ("maker_numbers", "tracing", "worth")


def drop_parts(user: Any, numbers: Sequence[str]) -> None:
    """Take parts away, all of them or none; the history keeps what was there.

    Raises ProblemsError naming what stands in the way (a line, a sheet, stock, an order, a round), and Refused.
    """
    require(user, "parts")
    if not 0 < len(numbers) <= 1000:
        raise ProblemsError([Problem("numbers", "1 to 1,000 parts are taken away at once")])
    with transaction.atomic():
        parts = list(Part.objects.select_for_update().filter(number__in=numbers).order_by("pk"))
        held = {part.number for part in parts}
        problems = [Problem(n, f"part {n} is not known") for n in dict.fromkeys(numbers) if n not in held]
        for part in parts:
            for relation in Part._meta.related_objects:
                name = relation.get_accessor_name()
                if name in _OWN or relation.related_model.__name__.startswith("Historical"):
                    continue
                first = relation.related_model._base_manager.filter(**{relation.field.name: part}).first()
                if first is not None:
                    word = str(relation.related_model._meta.verbose_name)
                    problems.append(Problem(part.number, f"{part.number} cannot be taken away: it is named by a {word}"))
                    break
        if problems:
            raise ProblemsError(problems)
        for part in parts:
            part._history_user, part._change_reason = user, "taken away; nothing named it"
            part.delete()
