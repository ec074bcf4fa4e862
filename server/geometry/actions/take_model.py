"""Take a model of a part or an assembly: keep the file, have the worker read it, and give each part its shape, its picture, its sizes."""

import base64
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from accounts.access import require
from definition.models.parts import Part, PartFile
from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.utils.timezone import now
from django_tasks import task
from files.models import StoredFile
from files.store import let_go, opened, plain_name, store, too_large
from formats.step import described_by_size, is_step, mains_of, read_step, size_in_short
from jobs.work import Tell, ask_for, carry_out
from simple_history.utils import bulk_update_with_history
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError

from geometry.densities import density_of
from geometry.models import FORMAT, KIND, SECTION, ModelFile, ModelPiece, PartShape, PartView, section_key
from geometry.picture import drawn_picture

__all__ = ["files_of", "read_shapes", "section_rows", "take_kept_model", "take_model"]

#: What the picture of a model is called among the files of its part; another model's takes its place.
_PICTURE = "as modelled.png"
_MOST_FILES = 200


def take_model(user: Any, number: str, files: list[tuple[str, bytes]]) -> ModelFile:
    """Keep a STEP file for a part, or several that refer to one another, and hand them to the worker.

    Raises ProblemsError for what is none, MissingError, and Refused.
    """
    require(user, "parts")
    files = [(plain_name(name), content) for name, content in files]
    _check(files)
    (main,) = mains_of(files)
    with transaction.atomic():
        part = Part.objects.select_for_update().filter(number=number).first()
        if part is None:
            raise MissingError(f"Part {number} is not known.")
        kept = {name: store(content, "text/plain") for name, content in files}
        return _ask(user, part, main, kept.pop(main), {}, kept)


def _check(files: list[tuple[str, bytes]]) -> None:
    """Raises ProblemsError for what is no STEP, too much, or not one model."""
    size = sum(len(content) for _, content in files)
    names = [name for name, _ in files]
    if not files or len(files) > _MOST_FILES:
        raise ProblemsError([Problem("file", f"A model is one STEP file, or up to {_MOST_FILES} that refer to one another.")])
    if size > settings.UPLOAD_LIMIT:
        raise ProblemsError([Problem("file", too_large(size))])
    if strange := next((name for name, content in files if not is_step(content)), None):
        raise ProblemsError([Problem("file", f"{strange} is no STEP file, whatever its ending says.")])
    if twice := next((name for name in names if names.count(name) > 1), None):
        raise ProblemsError([Problem("file", f"Two of the files are called {twice}.")])
    mains = mains_of(files)
    if len(mains) > 1:
        raise ProblemsError(
            [Problem("file", f"{', '.join(mains)} do not refer to one another: they are models of their own. Bring in one at a time.")]
        )


def take_kept_model(
    user: Any, part: Part, name: str, file: StoredFile, pairs: Mapping[str, str], beside: Mapping[str, StoredFile]
) -> ModelFile:
    """Read a file that is kept already as the model of a part, with those that it names, within the caller's transaction.

    ``pairs`` says what is ours under its names.
    """
    return _ask(user, part, name, file, dict(pairs), beside)


def _ask(user: Any, part: Part, name: str, file: StoredFile, pairs: dict[str, str], beside: Mapping[str, StoredFile]) -> ModelFile:
    model = ModelFile.objects.create(part=part, file=file, name=name, pairs=pairs, added_by=str(user))
    ModelPiece.objects.bulk_create(ModelPiece(model=model, file=piece, name=called) for called, piece in beside.items())
    job = ask_for(KIND, part.pk, f"reading {name}", str(user))
    transaction.on_commit(lambda: read_model.enqueue(model.pk, job.pk))
    return model


def files_of(model: ModelFile) -> list[tuple[str, bytes]]:
    """Name and content of everything a model is made of, the file that refers to the others first."""
    found = []
    for name, file in [(model.name, model.file), *((p.name, p.file) for p in model.pieces.select_related("file"))]:
        with opened(file, name) as held:
            found.append((name, held.read()))
    return found


def _sections_of(part: Part) -> list[tuple[str, float]]:
    """The sections that were cut of the model before."""
    held = PartView.objects.filter(model__part=part, direction__startswith=SECTION)
    return [(v.said["side"], v.said["depth"]) for v in held]


def section_rows(model: ModelFile, said: dict[str, Any]) -> list[PartView]:
    """Sections as they were read, to be kept; what lies in front of everything is none."""
    return [
        PartView(
            model=model,
            direction=section_key(cut["side"], cut["depth"]),
            said={"format": FORMAT, "side": cut["side"], "depth": cut["depth"], **cut["view"]},
        )
        for cut in said.get("sections", ())
        if cut["view"] is not None
    ]


@task(queue_name="models")
def read_model(model_id: int, job_id: int) -> None:
    """Read a kept model; what cannot be read is said on the job."""

    def work(tell: Tell) -> None:
        model = ModelFile.objects.select_related("file", "part").get(pk=model_id)
        tell("counting its parts, measuring and drawing each", 1, 2)
        files, sections = files_of(model), _sections_of(model.part)
        try:
            said = read_step(files, drawn=True, sections=sections)
        except TallyError:
            # A plane that takes the kernel down does not keep the model from being read: that section is not cut then.
            if not sections:
                raise
            said = read_step(files, drawn=True)
        tell("giving parts their shapes", 2, 2)
        with transaction.atomic():
            read_shapes(model, said)

    carry_out(job_id, work)


def read_shapes(model: ModelFile, said: dict[str, Any]) -> None:
    """Lay down what a model says, within the caller's transaction: shapes of the parts that are ours, and what they lacked so far.

    Sizes and pictures that an earlier model gave are renewed; what a person stated stays.
    """
    entries = {e["name"]: e for e in [*said.get("assemblies", ()), *said["parts"]] if e["name"]}
    numbers = _numbers(model, entries, said)
    parts = {p.number: p for p in Part.objects.select_for_update().filter(number__in=numbers.values()).order_by("pk")}
    model.said = {
        "format": FORMAT,
        "ours": {name: parts[number].pk for name, number in numbers.items() if number in parts},
        "tree": said["tree"],
        "counts": {name: e["count"] for name, e in entries.items()},
        "problems": [p["message"] for p in said["problems"]],
        "as_stated": sum(e["count"] for e in said.get("as_stated", ())),
    }
    if looks := said.get("looks"):
        model.look = store(base64.b64decode(looks[0]["glb"]), "model/gltf-binary")
    model.save(update_fields=["said", "look"])
    before = {s.part_id: s for s in PartShape.objects.filter(part__in=parts.values())}
    changed = []
    for name, number in numbers.items():
        part, entry = parts.get(number), entries[name]
        if part is None:
            continue
        changed += [part] * _facts(part, entry, before.get(part.pk))
        PartShape.objects.update_or_create(
            part=part,
            defaults={
                "source": model,
                "name": name,
                "count": entry["count"],
                "box_mm": entry.get("smallest_box_mm", []),
                "volume_mm3": entry.get("volume_mm3", ""),
                "surface_mm2": entry.get("surface_mm2", ""),
                "colour": entry.get("colour", ""),
                "sheet": {"format": FORMAT, **entry["sheet"]} if entry.get("sheet") else None,
                "drawing": {"format": FORMAT, **entry["drawing"]} if entry.get("drawing") else None,
            },
        )
        if part.pk == model.part_id:
            # Views are of the newest file brought in for the assembly itself; that it stands in others takes none away.
            PartView.objects.filter(model__part=part).delete()
            PartView.objects.bulk_create(
                PartView(model=model, direction=side, said={"format": FORMAT, **view}) for side, view in entry.get("views", {}).items()
            )
            PartView.objects.bulk_create(section_rows(model, said))
        if entry.get("drawing"):
            _picture(part, drawn_picture(entry["drawing"]), model.added_by)
    if changed:
        who = User.objects.filter(username=model.added_by).first()
        bulk_update_with_history(
            changed,
            Part,
            ["size_mm", "mass_kg", "description", "version"],
            default_user=who,
            default_change_reason=f"model {model.name}",
            default_date=now(),
        )


def _numbers(model: ModelFile, entries: dict[str, Any], said: dict[str, Any]) -> dict[str, str]:
    """Which names of the file are which parts of ours: what was said, the top itself, and names that are numbers."""
    found = {name: number for name, number in model.pairs.items() if name in entries}
    tops = [t["name"] for t in said["tree"] if t["parent"] is None]
    if len(tops) == 1 and tops[0] in entries:
        found.setdefault(tops[0], model.part.number)
    left = [name for name in entries if name not in found]
    ours = {
        n.upper(): n
        for n in Part.objects.filter(number__in={x for name in left for x in (name, name.upper())}).values_list("number", flat=True)
    }
    for name in left:
        if name.upper() in ours:
            found[name] = ours[name.upper()]
    return found


def _size(box: list[str]) -> str:
    return " x ".join(map(size_in_short, box))


def _facts(part: Part, entry: dict[str, Any], before: PartShape | None) -> bool:
    """Size and mass that the part lacks, or that an earlier model gave it; whether something changed."""
    box, volume = entry.get("smallest_box_mm"), entry.get("volume_mm3")
    if not box:
        return False
    held = (part.size_mm, part.mass_kg, part.description)
    if not part.size_mm or (before is not None and before.box_mm and part.size_mm == _size(before.box_mm)):
        part.size_mm = _size(box)
    # A list of a model described it by the size it had; nobody else did so far.
    if before is not None and before.box_mm and part.description == described_by_size(before.box_mm):
        part.description = described_by_size(box)
    mass = _mass(part.material, volume)
    if mass is not None and (part.mass_kg is None or (before is not None and part.mass_kg == _mass(part.material, before.volume_mm3))):
        part.mass_kg = mass
    if held == (part.size_mm, part.mass_kg, part.description):
        return False
    part.version += 1
    return True


def _mass(material: str, volume_mm3: str | None) -> Decimal | None:
    """Kilograms, to the gram or three figures."""
    density = density_of(material)
    if density is None or not volume_mm3:
        return None
    mass = float(volume_mm3) * density / 1e9
    return Decimal(f"{mass:.3f}" if mass >= 0.1 else f"{mass:.2e}").normalize() + 0


def _picture(part: Part, png: bytes, by: str) -> None:
    """The drawing as a picture of the part; where a person gave it one, that one stays the first."""
    held = PartFile.objects.filter(part=part, name=_PICTURE).first()
    file = store(png, "image/png")
    if held is None:
        PartFile.objects.create(part=part, file=file, name=_PICTURE, added_by=by)
    elif held.file_id != file.pk:
        old, held.file = held.file_id, file
        held.save()
        let_go([old])
