"""Our parts as a sender's lines are held against them (rules P1 to P4)."""

from collections import defaultdict
from typing import Any

from definition.models.parts import MakerNumber, Part, StockMove
from django.db.models import Sum
from tally_core.pairing.propose import Asked, Ours, Shelf

__all__ = ["our_shelf", "proposals_for"]


def our_shelf() -> Shelf:
    """Every part that is a thing, with all that its texts say. Three queries."""
    stock = {k for k, t in StockMove.objects.order_by().values_list("part").annotate(total=Sum("quantity")) if t > 0}
    makers: dict[int, list[tuple[str, str, int]]] = defaultdict(list)
    cases: dict[int, list[str]] = defaultdict(list)
    for key, maker, number, rank, package in MakerNumber.objects.values_list(
        "part", "maker", "number", "rank", "package"
    ):
        makers[key].append((str(maker or ""), number, rank))
        cases[key].append(package)
    parts = Part.objects.exclude(kind__in=("charge", "phantom")).only(
        "id", "number", "description", "second_description", "material", "lifecycle"
    )
    return Shelf(
        Ours(
            number=p.number,
            texts="; ".join(
                filter(None, (p.description, p.second_description, p.material, *dict.fromkeys(cases[p.pk])))
            ),
            makers=makers[p.pk],
            lifecycle=p.lifecycle,
            on_stock=p.pk in stock,
        )
        for p in parts
    )


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
