"""Turn the decided lines of an inquiry into sheets, all of them or none."""

import uuid
from typing import Any

from accounts.access import require
from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from partners.naming import partners_named
from simple_history.utils import bulk_update_with_history
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.lists.titles import OWN
from verbs.contract import writing
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet

from inquiries.lines import held_inquiry
from inquiries.modelled import take_models
from inquiries.models import Inquiry, Origin, Product
from inquiries.result import PlannedSheet, make_result

__all__ = ["save_result"]

_AT_ONCE = 4000
#: The fields of a part that a list may fill.
_FILLED = ("description", "material", "supplier", "supplier_number", "supplier_link", "own_values")


def save_result(user, inquiry_id: int, seal: str | None = None) -> list[Product]:
    """Make the sheets that :func:`make_result` shows, as drafts; answers what the inquiry became, its tops first.

    ``seal`` is that of the plan which was seen: where another one would be carried out by now, nothing is saved, a
    TallyError. Raises ProblemsError, each problem placed at its row, when a line is undecided or stops; then nothing is saved. And
    Refused.
    """
    require(user, "sheets")
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        result = make_result(inquiry)
        if result.problems:
            raise ProblemsError([Problem(f"line {key}", words) for key, words in result.problems])
        if seal is not None and seal != result.seal():
            raise TallyError("What this becomes has changed since it was shown. Nothing was saved; look at it again.")
        why = f"inquiry {inquiry.number}"
        turned = {s.part.number for s in result.sheets if s.turns_made}
        known = list(Part.objects.select_for_update().filter(number__in={*turned, *result.filled}).order_by("pk"))
        suppliers = {of["supplier"] for of in result.filled.values() if "supplier" in of}
        named = partners_named(sorted(suppliers), "supplier", user) if suppliers else {}
        for part in known:
            if part.number in turned:
                part.kind = "made"
            for name, text in result.filled.get(part.number, {}).items():
                if name.startswith(OWN):
                    part.own_values = part.own_values | {name.removeprefix(OWN): text}
                elif name == "supplier":
                    part.supplier_id = named[text]
                else:
                    setattr(part, name, text)
            part.version += 1
        if known:
            fields = ["kind", "version", *_FILLED]
            bulk_update_with_history(known, Part, fields, default_user=user, default_change_reason=why)
        made: list[Product] = []
        for planned in result.sheets:
            sheet = planned.newest if planned.stands else _carry_out(user, planned, why)
            assert sheet is not None
            product, _ = Product.objects.update_or_create(inquiry=inquiry, sheet=sheet, defaults={"top": planned.top, "made_by": str(user)})
            made.append(product)
        take_models(user, inquiry)
        _done(inquiry, user)
        return sorted(made, key=lambda p: (not p.top, p.sheet.part.number))


def _done(inquiry: Inquiry, user: Any) -> None:
    if inquiry.state in ("work", "waiting") and inquiry.customer_id is not None:
        inquiry.state = "ready"
    inquiry.version += 1
    inquiry._history_user = user
    inquiry.save()


def _carry_out(user: Any, planned: PlannedSheet, why: str) -> BuildSheet:
    sheet = open_sheet(user, planned.part.number, reason=why)
    # A revision that was just opened is a copy: its lines are known by their lineage.
    copied = {x.lineage: x for x in sheet.lines.all()}
    position = max((x.position for x in copied.values()), default=0)
    item = max((x.item or 0 for x in copied.values()), default=0)
    changes: list[dict[str, Any]] = []
    origins: list[tuple[uuid.UUID, Any]] = []
    fresh: dict[uuid.UUID, Any] = {}
    for line in planned.lines:
        at = copied.get(line.was.lineage) if line.was is not None else None
        if line.verb == "new":
            position += 1
            item = max(item // 10 * 10 + 10, line.values.get("item") or 0)
            key = uuid.uuid4()
            after = {"item": item} | line.values | {"position": position, "kind": "component"}
            changes.append({"table": "line", "id": key, "before": None, "after": after})
            fresh[key] = line.source
        elif at is not None and line.verb == "gone":
            changes.append({"table": "line", "id": at.id, "before": {}, "after": None})
        elif at is not None and line.verb == "changed":
            changes.append({"table": "line", "id": at.id, "before": {}, "after": line.values})
        if at is not None and line.source is not None:
            origins.append((at.lineage, line.source))
    for begin in range(0, len(changes), _AT_ONCE):
        sheet, _ = edit_sheet(user, sheet.pk, sheet.version, changes[begin : begin + _AT_ONCE], why)
    lineages = dict(sheet.lines.filter(id__in=fresh).values_list("id", "lineage"))
    origins += [(lineages[key], source) for key, source in fresh.items()]
    Origin.objects.bulk_create(
        [Origin(lineage=lineage, line=source) for lineage, source in origins], ignore_conflicts=True, batch_size=2000
    )
    return sheet
