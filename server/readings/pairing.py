"""All that says what our parts are, and what a sender's lines may be, in plain values (rules P1 to P4)."""

from collections import defaultdict
from collections.abc import Collection
from typing import Any

from definition.models.parts import MakerNumber, Part
from tally_core.inquiries.line import all_words
from tally_core.pairing.propose import Asked, Shelf

__all__ = ["asked_of", "proposals_for", "texts_of"]


def texts_of(parts: Collection[Part]) -> dict[int, str]:
    """All that says what some parts are, by their keys. One query."""
    cases: dict[int, list[str]] = defaultdict(list)
    for key, package in MakerNumber.objects.filter(part__in=[p.pk for p in parts]).values_list("part", "package"):
        cases[key].append(package)
    return {p.pk: "; ".join(filter(None, (p.description, p.second_description, p.material, *dict.fromkeys(cases[p.pk])))) for p in parts}


def asked_of(row: dict[str, Any]) -> Asked:
    """What a row of a neutral reading asks for."""
    part, maker, maker_number, *words = (
        row.get(n) or "" for n in ("part", "maker", "maker_number", "description", "value", "case", "material")
    )
    return Asked(part, maker, maker_number, all_words(*words, designators=row.get("designators") or ()))


def proposals_for(shelf: Shelf, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The rows of a neutral reading with what each may be, as ``./tally pair`` answers."""
    return [
        {
            "row": row["row"],
            "proposals": [
                {"part": p.part, "road": p.road, "certain": p.certain, "verdicts": p.verdicts} for p in shelf.propose(asked_of(row))
            ],
        }
        for row in rows
    ]
