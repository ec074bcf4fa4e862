"""A drawing as it stands: its views as lines on the paper, its balloons with the numbers of today, its list, and what is no longer true."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import hypot
from typing import Any

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from django.utils.timezone import localdate
from formats.step_lines import DIRECTIONS, across
from geometry.models import PartView
from geometry.reads import newest_model, ours_in
from readings.sheet_view import counting_sheet, revisions_of
from tally_core.basics.errors import TallyError
from tally_core.drawings.balloons import Box
from tally_core.drawings.clipping import within
from tally_core.drawings.hatching import hatched, manner_of

from drawings.laid import PAPERS, Balloon, Laid, View
from drawings.models import DrawnPicture

__all__ = ["FRAME", "RADIUS", "Listed", "Standing", "anchor", "best_seen", "inner", "seen_as_line", "stacked", "standing", "view_box"]

#: Margins of the frame (ISO 5457: 20 mm on the left, 10 on the others), and the radius of a balloon.
FRAME = (20.0, 10.0, 10.0, 10.0)
RADIUS = 5.0


@dataclass(frozen=True, slots=True)
class Listed:
    """A line of the sheet as the drawing lists it.

    Attributes:
        key: its lineage.
        name: what its part is called in the model, empty for nothing there.
        revised: whether this revision brought it, or took another part or quantity.
    """

    key: str
    line: str
    item: int | None
    number: str
    description: str
    part_class: str
    quantity: str
    unit: str
    locked: bool
    name: str
    count: float | None
    revised: bool


@dataclass(slots=True)
class Standing:
    """Everything a drawing shows."""

    part: Part
    sheet: BuildSheet
    laid: Laid
    views: dict[
        str, dict[str, Any]
    ]  # key of a view → what is seen, as ``formats.step_lines`` has it; of cut faces the lines that hatch them
    lines: list[Listed]
    names: dict[str, str]  # name in the model → number of a part
    depths: dict[str, float]  # from which side how many millimetres deep the model is
    revisions: list[BuildSheet]  # of its alternate, the newest first, from the one that it follows on
    troubles: list[str] = field(default_factory=list)


def _revisions_drawn(part: Part) -> list[BuildSheet]:
    """The sheet that a drawing follows, the draft that is worked at, else the one in force; and behind it the revisions before it.

    Raises TallyError where there is none.
    """
    sheets = revisions_of(part.pk)
    drafts = [s for s in sheets if s.status == "draft"]
    key = counting_sheet(sheets, localdate(), False)
    sheet = drafts[0] if drafts else next((s for s in sheets if s.pk == key), None)
    if sheet is None:
        raise TallyError(f"{part.number} has no sheet whose numbers a drawing could show.")
    return [s for s in sheets if s.alternate == sheet.alternate and s.pk <= sheet.pk]


def standing(part: Part, laid: Laid) -> Standing:
    """A drawing as it stands. A fixed number of queries. Raises TallyError where the part has no sheet."""
    revisions = _revisions_drawn(part)
    sheet = revisions[0]
    model = newest_model(part)
    names = {} if model is None else {name: ours.number for name, ours in ours_in(model).items()}
    held = {v.direction: v.said for v in PartView.objects.filter(model=model)}
    counts = Counter(placed["name"] for placed in held.get("isometric", {"parts": []})["parts"])
    called = {number: name for name, number in names.items() if name in counts}
    rows = Line.objects.filter(sheet=sheet).exclude(part=None).select_related("part").order_by("position", "id")
    pictures = {p.pk: p for p in DrawnPicture.objects.filter(drawing__part=part)}
    # A sheet that is nobody's copy is the first: nothing of it is a change.
    before = Line.objects.filter(sheet=sheet.copied_from).values_list("lineage", "part", "quantity", "unit") if sheet.copied_from else None
    earlier = None if before is None else {lineage: rest for lineage, *rest in before}
    lines = []
    for row in rows:
        if row.part is None or row.kind != "component":
            continue
        name = called.get(row.part.number, "")
        lines.append(
            Listed(
                str(row.lineage),
                str(row.pk),
                row.item,
                row.part.number,
                row.part.description,
                row.part.part_class,
                "" if row.quantity is None else f"{row.quantity.normalize():f}",
                row.unit or row.part.unit,
                row.item_locked,
                name,
                float(counts[name]) if name else None,
                earlier is not None and earlier.get(row.lineage) != [row.part_id, row.quantity, row.unit],
            )
        )
    found = Standing(part, sheet, laid, _seen(laid, held, pictures), lines, names, _depths(held), revisions)
    found.troubles = _troubles(found, called)
    return found


def _depths(held: dict[str, dict[str, Any]]) -> dict[str, float]:
    """None from any side of a model too large to be drawn from all of them."""
    if not {"front", "top"} <= held.keys():
        return {}
    wide, high, deep = held["front"]["width"], held["front"]["height"], held["top"]["height"]
    return {"front": deep, "back": deep, "right": wide, "left": wide, "top": high, "bottom": high}


def _seen(laid: Laid, held: dict[str, dict[str, Any]], pictures: Mapping[int, DrawnPicture]) -> dict[str, dict[str, Any]]:
    """What each view shows: whole ones as the model has them, details cut out of those, and pictures, which show no part by itself."""
    whole = {v.key: held[v.seen_as] for v in laid.views if not v.of and v.seen_as in held}
    found = {}
    for view in laid.views:
        if view.picture is not None:
            if (picture := pictures.get(view.picture)) is not None:
                found[view.key] = {"width": picture.width_mm, "height": picture.height_mm, "parts": [], "picture": picture}
            continue
        said = whole.get(view.of or view.key)
        if said is not None:
            found[view.key] = _in_box(_hatch(said, view.scale), view.box) if view.box else _hatch(said, view.scale)
    return found


def _hatch(said: dict[str, Any], scale: float) -> dict[str, Any]:
    """Cut faces as lines, each part of the model in a manner of its own, wherever it stands."""
    manner = {name: manner_of(at) for at, name in enumerate(dict.fromkeys(p["name"] for p in said["parts"] if p.get("cut")))}
    parts = []
    for part in said["parts"]:
        angle, spacing = manner.get(part["name"], (0.0, 1.0))
        parts.append({**part, "hatch": hatched(part.get("cut", ()), angle, spacing / scale)})
    return {**said, "parts": parts}


def _in_box(said: dict[str, Any], sides: tuple[float, float, float, float]) -> dict[str, Any]:
    """What of a view lies within a box of it."""
    box = Box(*sides)

    def cut(lines: list[list[float]]) -> list[list[float]]:
        return [[round(v - (box.x, box.y)[i % 2], 2) for i, v in enumerate(line)] for line in within(lines, box)]

    parts = []
    for part in said["parts"]:
        seen = cut(part["seen"])
        if seen or part["hatch"]:
            longest = max(seen, key=_reach, default=None)
            at = None if longest is None else longest[2 * (len(longest) // 4) :][:2]
            lines = {"seen": seen, "hidden": cut(part["hidden"]), "hatch": cut(part["hatch"])}
            parts.append({"name": part["name"], **lines, "length": sum(map(_reach, seen)), "at": at})
    return {**said, "width": box.width, "height": box.height, "parts": parts}


def _reach(line: list[float]) -> float:
    """How long a line is."""
    return sum(hypot(line[i + 2] - line[i], line[i + 3] - line[i + 1]) for i in range(0, len(line) - 2, 2))


def _troubles(found: Standing, called: dict[str, str]) -> list[str]:
    """What on the drawing is no longer true, or not yet."""
    words = []
    by_key = {x.key: x for x in found.lines}
    shown = [line for b in found.laid.balloons for line in b.lines]
    gone = [line for line in shown if line not in by_key]
    if gone:
        words.append(f"{len(gone)} of its balloons {'mean' if len(gone) > 1 else 'means'} a line that is no longer on the sheet.")
    tied = set(shown)
    bare = [x for x in found.lines if x.key not in tied and x.part_class not in found.laid.off and x.name]
    if bare and found.laid.balloons:
        words.append(f"No balloon yet for {', '.join(x.number for x in bare[:6])}{' and others' if len(bare) > 6 else ''}.")
    for x in found.lines:
        if x.count is not None and x.unit == "ea" and x.quantity and float(x.quantity) != x.count * float(found.sheet.batch):
            words.append(f"{x.number}: the sheet says {x.quantity}, and the model holds {x.count:g}.")
    lost = [b for b in found.laid.balloons if b.line in by_key and b.at is None and not by_key[b.line].name]
    if lost:
        words.append(f"{len(lost)} of its balloons {'mean' if len(lost) > 1 else 'means'} a part that the model no longer holds.")
    for view in found.laid.views:
        if view.key not in found.views and view.depth is not None:
            words.append(f"Section {view.letter} is not cut yet, or lies in front of the model.")
        elif view.key not in found.views and view.picture is not None:
            words.append("A picture that stood on it is no longer there.")
        elif view.key not in found.views and not view.of:
            words.append(f"The model has no view from “{view.direction}”.")
        elif view.depth is not None and not view.of and seen_as_line(found, found.views[view.key]["plane"][0]) is None:
            words.append(f"Where section {view.letter} is taken shows on no view: add one on which its plane is a line.")
        elif uncut := found.views.get(view.key, {}).get("uncut"):
            words.append(f"In view {view.letter} stands whole what could not be cut: {', '.join(uncut)}.")
    return words


def seen_as_line(found: Standing, axis: int) -> View | None:
    """The first view on which a plane across an axis of the model (0, 1, 2) is a line."""
    for view in found.laid.views:
        # Of a view that was read before sections were, nobody knows where it lies.
        if view.of or view.depth is not None or view.direction not in DIRECTIONS or "origin" not in found.views.get(view.key, {}):
            continue
        right, up = across(view.direction)
        if sorted((abs(right[axis]), abs(up[axis]))) == [0, 1]:
            return view
    return None


def inner(laid: Laid) -> Box:
    """What is within the frame."""
    width, height = PAPERS[laid.size]
    left, top, right, low = FRAME
    return Box(left, top, width - left - right, height - top - low)


def view_box(view: View, said: dict[str, Any]) -> Box:
    """The rectangle of a view on the paper."""
    return Box(view.x, view.y, said["width"] * view.scale, said["height"] * view.scale)


def anchor(found: Standing, balloon: Balloon) -> tuple[float, float] | None:
    """Where the leader of a balloon ends on the paper; None where it means nothing that is seen."""
    view = next((v for v in found.laid.views if v.key == balloon.view), None)
    if view is None or view.key not in found.views:
        return None
    point: Sequence[float] | None = balloon.at
    if point is None:
        listed = next((x for x in found.lines if x.key == balloon.line), None)
        point = None if listed is None else best_seen(found, view, listed.name)[0]
    return None if point is None else (view.x + point[0] * view.scale, view.y + point[1] * view.scale)


def stacked(balloon: Balloon) -> list[tuple[float, float]]:
    """Where the middle of each of its circles stands, one beneath the other."""
    x, y = balloon.to
    return [(x, y + 2 * RADIUS * n) for n in range(len(balloon.lines))]


def best_seen(found: Standing, view: View, name: str) -> tuple[Sequence[float] | None, float]:
    """Where a part of the model is seen best in a view, and how much of its edges is seen there, on paper."""
    said = found.views.get(view.key)
    if said is None or not name or name in view.left_out:
        return None, 0.0
    mine = [p for p in said["parts"] if p["name"] == name and p["at"] is not None]
    best = max(mine, key=lambda p: p["length"], default=None)
    return (None, 0.0) if best is None else (best["at"], best["length"] * view.scale)
