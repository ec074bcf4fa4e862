"""State which manufacturers' numbers are approved for a part, the first choice first."""

from accounts.access import require
from definition.models.parts import MakerNumber, Part
from django.db import transaction
from partners.naming import partners_named
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.stated import definition as core
from tally_core.stated.records import check_maker_numbers

__all__ = ["save_maker_numbers"]


def save_maker_numbers(user, part_number: str, wanted: list[dict[str, str]]) -> list[MakerNumber]:
    """Replace the ranked list of a part's manufacturers' numbers.

    Args:
        wanted: ``{"maker", "number", "package"}`` in order of rank.

    Raises ProblemsError placing each problem at its row (``[1].number``), and Refused.
    """
    require(user, "parts")
    rows = [{name: row.get(name, "").strip() for name in ("maker", "number", "package")} for row in wanted]
    entries = [core.MakerNumber(row["number"], row["maker"], row["package"], i) for i, row in enumerate(rows, 1)]
    problems = [Problem(f"[{i}].maker", "the maker is needed") for i, row in enumerate(rows) if not row["maker"]]
    problems += check_maker_numbers(entries)
    if problems:
        raise ProblemsError(problems)
    with transaction.atomic():
        part = Part.objects.select_for_update().filter(number=part_number).first()
        if part is None:
            raise MissingError(f"Part {part_number} is not known.")
        named = partners_named([row["maker"] for row in rows], "maker", user)
        held = {((m.maker_id or "").upper(), m.number.upper()): m for m in part.maker_numbers.all()}
        kept = []
        for rank, row in enumerate(rows, 1):
            row["maker"] = named[row["maker"]]
            entry = held.pop((row["maker"].upper(), row["number"].upper()), None) or MakerNumber(part=part)
            before = (entry.rank, entry.maker_id, entry.number, entry.package)
            entry.rank, entry.maker_id, entry.number, entry.package = rank, row["maker"], row["number"], row["package"]
            if entry.pk is None or before != (entry.rank, entry.maker_id, entry.number, entry.package):
                entry.save()
            kept.append(entry)
        for gone in held.values():
            gone.delete()
        return kept
