"""How a list is read, as it is kept: by its own titles, as it was read before for this sender, or as somebody said."""

from typing import Any

from partners.models import Partner
from tally_core.lists.cells import Cell
from tally_core.lists.titles import ColumnMap

from inquiries.models import ColumnMapKept

__all__ = ["as_json", "of_json", "remembered_map"]

#: Shapes of lists that are looked through for one sender.
_MOST = 200


def as_json(column_map: ColumnMap) -> dict[str, Any]:
    """A column map in plain values."""
    return {
        "header": column_map.header,
        "columns": {name: list(at) for name, at in column_map.columns.items()},
        "commas": dict(column_map.commas),
        "titles": list(column_map.titles),
    }


def of_json(kept: dict[str, Any]) -> ColumnMap:
    """A column map out of plain values; what a later version of us may have added is passed over."""
    columns = {name: (int(at[0]), int(at[1])) for name, at in kept["columns"].items()}
    return ColumnMap(int(kept["header"]), columns, dict(kept.get("commas", {})), tuple(kept.get("titles", ())))


def remembered_map(customer: Partner | None, rows: list[list[Cell]]) -> ColumnMap | None:
    """The map that was kept for lists of this sender whose titles stand in some rows, the newest first; None where there is none."""
    for kept in ColumnMapKept.objects.filter(customer=customer).order_by("-changed_at")[:_MOST]:
        found = of_json(kept.map).found_in(rows)
        if found is not None:
            return found
    return None
