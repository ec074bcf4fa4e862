"""What a model says of a part, and whether it counts what the sheet counts."""

from typing import Any

from definition.models.parts import Part
from django.utils.timezone import localdate
from formats.step import size_in_short
from jobs.work import JobState, job_state, last_job
from loading.reads import load_product, structure_of
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import IS_ITSELF, PART_KIND
from tally_core.cost.answers import Basis
from tally_core.structure.needs import places_in_one

from geometry.models import KIND, ModelFile, PartShape

__all__ = ["look_of", "model_job", "model_of", "newest_model", "ours_in"]


def model_job(part: Part) -> JobState:
    """The reading of the newest model of a part."""
    return job_state(last_job(KIND, part.pk))


def newest_model(part: Part) -> ModelFile | None:
    """The newest file brought in for a part that could be read."""
    return part.model_files.filter(said__isnull=False).first()


def look_of(part: Part) -> ModelFile | None:
    """The model in which a part is looked at from any side: its own, else the one that its shape is from; None where there is no look."""
    own = newest_model(part)
    if own is None:
        shape = PartShape.objects.select_related("source__part", "source__look").filter(part=part).first()
        own = shape.source if shape is not None else None
    return own if own is not None and own.look_id is not None else None


def ours_in(model: ModelFile) -> dict[str, Part]:
    """Our parts by the names that a model has for them; one that was taken away since is not among them."""
    assert model.said is not None
    ours = model.said["ours"]
    parts = Part.objects.in_bulk(ours.values())
    return {name: parts[key] for name, key in ours.items() if key in parts}


def model_of(part: Part) -> dict[str, Any]:
    """The shape of a part, the newest file brought in for it, and each name of that file beside our count. A fixed number of queries."""
    shape = PartShape.objects.select_related("source__part").filter(part=part).first()
    file = newest_model(part)
    rows = []
    if file is not None and file.said is not None:
        ours = ours_in(file)
        shapes = {s.part_id: s for s in PartShape.objects.filter(part__in=ours.values())}
        counted = _counted(part)
        for name, count in file.said["counts"].items():
            known = ours.get(name)
            if known is not None and known.pk == part.pk:
                continue
            held = shapes.get(known.pk) if known is not None else None
            rows.append(
                {
                    "name": name,
                    "count": count,
                    "number": known.number if known else "",
                    "description": known.description if known else "",
                    "on_sheet": counted.get(known.number, 0.0) if known and counted is not None else None,
                    "size": " × ".join(size_in_short(x) for x in held.box_mm) if held else "",
                    "drawing": bool(held and held.drawing),
                }
            )
    shown = file if file is not None else shape.source if shape is not None else None
    return {"shape": shape, "file": file, "rows": rows, "look": shown.part.number if shown is not None and shown.look_id else ""}


def _counted(part: Part) -> dict[str, float] | None:
    """How often each part stands in one of a part by its sheets of today, drafts too; None where it has none that can be counted."""
    if not PART_KIND[part.kind].takes_sheet:
        return None
    basis = Basis(localdate(), None, (), True)
    try:
        loaded = load_product(part, basis)
        s = structure_of(loaded, ())
    except TallyError:
        return None
    places = places_in_one(s, loaded.row(part.pk))
    return {s.parts.numbers[row]: float(places[row]) for row in range(len(places)) if places[row] and IS_ITSELF[s.parts.kind[row]]}
