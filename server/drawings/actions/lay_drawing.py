"""Lay a drawing: begin one, keep what somebody moved, put balloons where they belong, number the sheet by where things stand."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from accounts.access import require
from definition.models.parts import Part
from django.conf import settings
from files.store import plain_name, store, too_large
from formats.apart import page_for_drawing
from geometry.actions.cut_model import cut_model
from geometry.models import SECTION, PartView
from geometry.reads import newest_model
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.drawings.balloons import Box, place_balloons
from tally_core.drawings.by_position import Group, number_by_position
from tally_core.drawings.room import room_for
from verbs.contract import held, writing
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet

from drawings.laid import PAPERS, PICTURE, Balloon, Laid, View, next_letter, of_plain, plain, read_laid
from drawings.models import Drawing, DrawnPicture
from drawings.paper import list_boxes
from drawings.standing import RADIUS, Standing, anchor, best_seen, inner, stacked, standing, view_box

__all__ = ["add_picture", "add_view", "begin_drawing", "keep_drawing", "new_numbers", "number_sheet", "put_balloons"]

#: What stays free beside the frame, for balloons.
_EDGE = 14.0
#: Scales of ISO 5455, of which a first view takes the largest that fits.
_SCALES = (10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01)


def begin_drawing(user: Any, number: str) -> Drawing:
    """The drawing of a part, begun where there is none: its standard corner on A3 at a scale that fits, or nothing yet where no model shows it.

    Raises TallyError where it has no sheet, MissingError, and Refused.
    """
    with writing(user, "sheets"):
        part = Part.objects.select_for_update().filter(number=number).first()
        if part is None:
            raise MissingError(f"Part {number} is not known.")
        drawing = Drawing.objects.filter(part=part).first()
        if drawing is not None:
            return drawing
        laid = Laid()
        standing(part, laid)
        view = PartView.objects.filter(model=newest_model(part), direction="isometric").first()
        if view is None:
            # Without a model, or with one of too many things: an empty paper, for pictures.
            return _save(Drawing(part=part, version=0), laid, user)
        width, height = PAPERS[laid.size]
        # The right of the paper is for the list and the title.
        room = (width * 0.5, height * 0.62)
        scale = next((s for s in _SCALES if view.said["width"] * s <= room[0] and view.said["height"] * s <= room[1]), _SCALES[-1])
        first = View(
            "v1",
            "isometric",
            scale,
            round(width * 0.31 - view.said["width"] * scale / 2, 1),
            round(height * 0.5 - view.said["height"] * scale / 2, 1),
        )
        return _save(Drawing(part=part, version=0), Laid(laid.size, "", (first,)), user)


def _save(drawing: Drawing, laid: Laid, user: Any) -> Drawing:
    drawing.laid, drawing.changed_by = plain(laid), str(user)
    drawing.version += 1
    drawing.save()
    return drawing


def _held(number: str, version: int | None) -> Drawing:
    return held(
        Drawing.objects.select_related("part").filter(part__number=number),
        version,
        f"the drawing of {number}",
        f"{number} has no drawing yet.",
    )


def keep_drawing(user: Any, number: str, version: int | None, laid: Laid) -> Drawing:
    """Keep a drawing as somebody laid it. Raises ProblemsError where it was changed meanwhile, MissingError, and Refused."""
    with writing(user, "sheets"):
        drawing = _held(number, version)
        # A section that comes back by a step back may have been let go meanwhile.
        before = {v.seen_as for v in of_plain(drawing.laid).views}
        if back := [v for v in _sections(laid) if v.seen_as not in before]:
            cut_model(user, drawing.part, [(v.direction, v.depth or 0.0) for v in back])
        return _save(drawing, laid, user)


def _sections(laid: Laid) -> list[View]:
    return [v for v in laid.views if v.depth is not None and not v.of]


def add_view(user: Any, number: str, version: int | None, asked: View) -> Drawing:
    """One more view, where there is room for it, at the scale of the last one or the next smaller that fits; where none does, over the others.

    Args:
        asked: from where; a section with its depth, which the worker then cuts; a detail with what it is of, of its middle at the next scale
            above. Key, place, scale and letter are found here.

    Raises TallyError where the model has no such view, ProblemsError for what is no view, and as :func:`keep_drawing`.
    """
    with writing(user, "sheets"):
        drawing = _held(number, version)
        found = standing(drawing.part, of_plain(drawing.laid))
        views, model = found.laid.views, newest_model(drawing.part)
        largest = views[-1].scale if views else 1.0
        if asked.of:
            shown = next((v for v in views if v.key == asked.of), None)
            if shown is None or shown.key not in found.views:
                raise TallyError("A detail is of another view of this drawing.")
            whole = found.views[shown.key]
            box = (*(round(whole[n] * 3 / 8, 1) for n in ("width", "height")), *(round(whole[n] / 4, 1) for n in ("width", "height")))
            asked = replace(asked, direction=shown.direction, depth=None, box=box)
            wide, high = box[2], box[3]
            largest = min((s for s in _SCALES if s > shown.scale), default=shown.scale)
        else:
            seen = PartView.objects.filter(model=model, direction=asked.direction).first()
            if seen is None:
                raise TallyError(f"The model has no view “{asked.direction[:40]}”.")
            wide, high = seen.said["width"], seen.said["height"]
        key, scale, place = _room(found, wide, high, largest)
        letter = next_letter(found.laid) if asked.of or asked.depth is not None else ""
        view = replace(asked, key=key, scale=scale, x=round(place[0], 1), y=round(place[1], 1), letter=letter)
        laid = read_laid(plain(replace(found.laid, views=(*views, view))))
        if asked.depth is not None and not asked.of:
            _let_go_of_sections(laid, drawing.part)
            cut_model(user, drawing.part, [(asked.direction, asked.depth)])
        return _save(drawing, laid, user)


def _room(found: Standing, wide: float, high: float, largest: float) -> tuple[str, float, tuple[float, float]]:
    """A key for one more view of a size, its scale, and where it stands."""
    views = found.laid.views
    key = f"v{max((int(v.key[1:]) for v in views if v.key[1:].isdecimal()), default=0) + 1}"
    boxes = [view_box(v, found.views[v.key]) for v in views if v.key in found.views]
    boxes += [Box(x - RADIUS, y - RADIUS, 2 * RADIUS, 2 * RADIUS) for x, y in (b.to for b in found.laid.balloons)] + list_boxes(found)
    paper = inner(found.laid)
    within = Box(paper.x + _EDGE, paper.y + _EDGE, paper.width - 2 * _EDGE, paper.height - 2 * _EDGE)
    scales = [largest, *(s for s in _SCALES if s < largest)]
    fits = ((s, room_for(wide * s, high * s, within, boxes)) for s in scales)
    scale, place = next(((s, p) for s, p in fits if p is not None), (largest, (within.x, within.y)))
    return key, scale, place


def add_picture(user: Any, number: str, version: int | None, name: str, content: bytes, page: int) -> Drawing:
    """A picture or a page of a PDF as one more view, where there is room. Raises TallyError for what cannot be drawn, and as :func:`keep_drawing`."""
    require(user, "sheets")
    name = plain_name(name)
    if len(content) > settings.UPLOAD_LIMIT:
        raise ProblemsError([Problem("file", too_large(len(content)))])
    drawn = page_for_drawing(name, content, page)
    with writing(user, "sheets"):
        drawing = _held(number, version)
        found = standing(drawing.part, of_plain(drawing.laid))
        picture = DrawnPicture.objects.create(
            drawing=drawing,
            file=store(drawn.png, "image/png"),
            name=name,
            page=page,
            width_mm=round(drawn.width_mm, 2),
            height_mm=round(drawn.height_mm, 2),
            added_by=str(user),
        )
        key, scale, (x, y) = _room(found, picture.width_mm, picture.height_mm, 1.0)
        view = View(key, PICTURE, scale, round(x, 1), round(y, 1), picture=picture.pk)
        return _save(drawing, read_laid(plain(replace(found.laid, views=(*found.laid.views, view)))), user)


def _let_go_of_sections(laid: Laid, part: Part) -> None:
    """Sections of the model that are on the drawing no more."""
    PartView.objects.filter(model=newest_model(part), direction__startswith=SECTION).exclude(
        direction__in=[v.seen_as for v in laid.views]
    ).delete()


def put_balloons(user: Any, number: str, version: int | None) -> Drawing:
    """A balloon for every line of which something is seen, where it is seen best, around its view; those of lines that are gone go.

    What somebody put by hand stays where it is. Raises as :func:`keep_drawing`.
    """
    with writing(user, "sheets"):
        drawing = _held(number, version)
        found = standing(drawing.part, of_plain(drawing.laid))
        return _save(drawing, found.laid.with_balloons(_all_balloons(found)), user)


def _all_balloons(found: Standing) -> list[Balloon]:
    lines = {x.key: x for x in found.lines if x.part_class not in found.laid.off}
    held = [_without_gone(b, lines) for b in found.laid.balloons]
    kept = [b for b in held if b is not None and b.by_hand]
    # Those that stand together do so because somebody put them together: they stay so, wherever they go.
    together = {b.line: b.more for b in held if b is not None and b.more}
    tied = {line for b in kept for line in b.lines} | {line for more in together.values() for line in more}
    wanted: dict[str, list[tuple[str, tuple[float, float]]]] = {}
    for key, listed in lines.items():
        if key in tied:
            continue
        views = [(best_seen(found, v, listed.name), v) for v in found.laid.views if not v.of]
        (point, length), view = max(views, key=lambda x: x[0][1], default=((None, 0.0), None))
        if view is not None and point is not None and length > 0:
            at = (view.x + point[0] * view.scale, view.y + point[1] * view.scale)
            wanted.setdefault(view.key, []).append((key, at))
    made: list[Balloon] = []
    paper = inner(found.laid)
    for view in found.laid.views:
        mine = wanted.get(view.key, [])
        taken = [place for b in kept + made for place in stacked(b)]
        others = [view_box(v, found.views[v.key]) for v in found.laid.views if v.key != view.key and v.key in found.views]
        box = view_box(view, found.views[view.key]) if view.key in found.views else None
        blocked = [*others, *list_boxes(found)]
        places = place_balloons([at for _, at in mine], box, RADIUS, paper, taken, blocked) if box and mine else []
        made += [
            Balloon(key, view.key, (round(x, 2), round(y, 2)), more=together.get(key, ()))
            for (key, _), (x, y) in zip(mine, places, strict=True)
        ]
    return kept + made


def _without_gone(balloon: Balloon, lines: Mapping[str, Any]) -> Balloon | None:
    """A balloon with those of its lines that are still to have one; the next takes the place of a first that is gone."""
    left = [line for line in balloon.lines if line in lines]
    return replace(balloon, line=left[0], more=tuple(left[1:])) if left else None


def new_numbers(found: Standing, groups: Mapping[str, Group], tolerance: float) -> dict[str, int]:
    """The number that each line would get by where its balloon points, by the key of the line; lines without a balloon come last."""
    points: dict[str, tuple[float, float]] = {}
    for balloon in found.laid.balloons:
        at = anchor(found, balloon)
        if at is not None:
            # Those beneath one another count downward, in the place of the first.
            points |= {line: (at[0] + n * 1e-6, at[1]) for n, line in enumerate(balloon.lines) if line not in points}
    group_of = {x.key: x.part_class for x in found.lines if x.part_class in groups}
    locked = {x.key: x.item for x in found.lines if x.locked and x.item is not None}
    keys = [x.key for x in found.lines]
    return number_by_position(
        {k: p for k, p in points.items() if k in keys}, group_of, groups, locked, tolerance, [k for k in keys if k not in points]
    )


def number_sheet(user: Any, number: str, groups: Mapping[str, Group], tolerance: float) -> Drawing:
    """Number the lines of the sheet by position (rule M2), in its draft; the balloons follow. Raises TallyError, and Refused."""
    with writing(user, "sheets"):
        drawing = Drawing.objects.select_for_update(of=("self",)).select_related("part").filter(part__number=number).first()
        if drawing is None:
            raise MissingError(f"{number} has no drawing yet.")
        if not 0 < tolerance < 1000 or any(g.step < 1 or not 0 < g.start < 10**6 for g in groups.values()):
            raise ProblemsError([Problem("groups", "numbers begin from 1 and go on by 1 or more; a tolerance is in millimetres above 0")])
        found = standing(drawing.part, of_plain(drawing.laid))
        numbers = new_numbers(found, groups, tolerance)
        sheet = open_sheet(user, number, found.sheet.alternate, reason="numbered by position")
        # A revision that was just opened is a copy: its lines are known by their lineage.
        changes = [
            {"table": "line", "id": row.pk, "before": {}, "after": {"item": numbers[str(row.lineage)]}}
            for row in sheet.lines.all()
            if str(row.lineage) in numbers and row.item != numbers[str(row.lineage)]
        ]
        if changes:
            edit_sheet(user, sheet.pk, sheet.version, changes, "numbered by position")
        return drawing
