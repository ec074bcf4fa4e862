"""What models say beside the sheets that are looked through: how many of which part they hold, and run times that are computed from them."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from readings.survey import Surveyed, load_survey

from geometry.models import PartShape
from geometry.run_times import no_longer_computed

__all__ = ["survey_with_models"]


def survey_with_models(part_ids: list[int] | None = None) -> Surveyed:
    """The sheets of some parts, or all of them, with what the newest model of each holds and run times computed of old. Up to four queries more.

    What only a model has beneath one of the parts is surveyed, too.
    """
    held = _held(part_ids)
    surveyed = load_survey(None if part_ids is None else sorted({*part_ids, *(child for below in held.values() for child in below)}))
    row = {int(key): at for at, key in enumerate(surveyed.part_ids)}
    surveyed.survey.modelled = {
        row[part]: {row[child]: count for child, count in below.items() if child in row} for part, below in held.items() if part in row
    }
    at = {key: row for row, key in enumerate(surveyed.sheet_ids)}
    surveyed.survey.computed = {at[sheet]: found for sheet, found in no_longer_computed(part_ids).items() if sheet in at}
    return surveyed


def _held(part_ids: Iterable[int] | None) -> dict[int, Counter[int]]:
    """By the key of an assembly, how many of which parts of ours stand directly in it."""
    shapes = PartShape.objects.filter(box_mm=[], source__said__isnull=False)
    if part_ids is not None:
        shapes = shapes.filter(part__in=list(part_ids))
    found: dict[int, Counter[int]] = {}
    rows: Iterable[tuple[int, str, Any]] = shapes.values_list("part", "name", "source__said")
    for part, name, said in rows:
        found[part] = Counter()
        for entry in said["tree"]:
            if entry["parent"] == name and entry["name"] in said["ours"]:
                found[part][said["ours"][entry["name"]]] += entry["count"]
    return found
