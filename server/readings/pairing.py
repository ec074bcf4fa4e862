"""Our parts as a sender's lines are held against them (rules P1 to P4)."""

from collections import defaultdict
from collections.abc import Collection, Mapping
from typing import Any

from definition.models.parts import MakerNumber, Part, StockMove
from django.db.models import Sum
from tally_core.pairing.propose import Asked, Ours, Shelf

__all__ = ["our_shelf", "proposals_for", "shelf_of", "texts_of"]


def our_shelf(remembered: Mapping[str, str] | None = None) -> Shelf:
    """Every part that is a thing, with all that its texts say. Three queries.

    Args:
        remembered: a sender's number, folded → our part that it was paired with before.
    """
    parts = list(Part.objects.exclude(kind__in=("charge", "phantom")).only(*_SAID))
    return shelf_of(parts, remembered)


def shelf_of(parts: list[Part], remembered: Mapping[str, str] | None = None) -> Shelf:
    """Some parts, laid out so that lines find their like among them."""
    keys = [p.pk for p in parts]
    moves = StockMove.objects.filter(part__in=keys).order_by().values_list("part").annotate(total=Sum("quantity"))
    stock = {k for k, t in moves if t > 0}
    makers: dict[int, list[tuple[str, str, int]]] = defaultdict(list)
    for key, maker, number, rank in MakerNumber.objects.filter(part__in=keys).values_list(
        "part", "maker", "number", "rank"
    ):
        makers[key].append((str(maker or ""), number, rank))
    texts = texts_of(parts)
    return Shelf((Ours(p.number, texts[p.pk], makers[p.pk], p.lifecycle, p.pk in stock) for p in parts), remembered)


_SAID = ("id", "number", "description", "second_description", "material", "lifecycle")


def texts_of(parts: Collection[Part]) -> dict[int, str]:
    """All that says what some parts are, by their keys. One query."""
    cases: dict[int, list[str]] = defaultdict(list)
    for key, package in MakerNumber.objects.filter(part__in=[p.pk for p in parts]).values_list("part", "package"):
        cases[key].append(package)
    return {
        p.pk: "; ".join(filter(None, (p.description, p.second_description, p.material, *dict.fromkeys(cases[p.pk]))))
        for p in parts
    }


def proposals_for(shelf: Shelf, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The rows of a neutral reading with what each may be, as ``./tally pair`` answers."""
    return [
        {
            "row": row["row"],
            "proposals": [
                {"part": p.part, "road": p.road, "certain": p.certain, "verdicts": p.verdicts}
                for p in shelf.propose(
                    Asked(
                        row.get("part", ""),
                        row.get("maker", ""),
                        row.get("maker_number", ""),
                        row.get("description", ""),
                    )
                )
            ],
        }
        for row in rows
    ]
