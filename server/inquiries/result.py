"""What the decided lines of an inquiry will become: which sheets, and what of each is new, other or taken away. Saves nothing."""

from collections import defaultdict
from dataclasses import dataclass, field
from decimal import Decimal
from hashlib import sha256
from typing import Any

from definition.as_shown import plain_value
from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet, Line
from definition.records import class_record, plain_decimal
from tally_core.basics.kinds import PART_KIND
from tally_core.inquiries.join import Joined, join
from tally_core.inquiries.line import InquiryLine, in_short
from tally_core.lists.titles import OWN
from tally_core.stated import definition as core
from tally_core.structure.effectivity import revision_order
from verbs.sheets.open_sheet import next_revision

from inquiries.lines import core_line, counting, more_of, own_of
from inquiries.models import Inquiry, ListLine, Origin

__all__ = ["PlannedLine", "PlannedSheet", "Result", "make_result"]


@dataclass(slots=True)
class PlannedLine:
    """One line of a planned sheet. ``was`` is the line that stands there now, ``values`` what it will say of what is another."""

    verb: str  # new | changed | stays | gone | not from a list
    part: str
    values: dict[str, Any] = field(default_factory=dict)
    was: Line | None = None
    source: ListLine | None = None

    def words(self) -> str:
        """What happens to it, in words."""
        if self.verb == "changed" and self.was is not None:
            return ", ".join(f"{_WORDS.get(n, n)} {_shown(self.was, n)} → {_text(v)}" for n, v in self.values.items())
        if self.verb == "new" and self.source is not None and self.source.part is not None:
            return f"new, {self.values['quantity']} {self.values['unit'] or self.source.part.unit}"
        return {"gone": "taken away", "stays": "as it stands"}.get(self.verb, self.verb)


_WORDS = {
    "reference_designators": "designators",
    "customer_supplied": "customer-supplied",
    "not_fitted": "not fitted",
    "scrap_percent": "scrap, %",
}


def _text(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return in_short(value) if isinstance(value, list) else str(value or "–")


def _shown(line: Line, name: str) -> str:
    return _text(line.part.number if name == "part" and line.part else plain_value(getattr(line, name)))


@dataclass(slots=True)
class PlannedSheet:
    """A sheet as it will be. ``stands``: the newest one says the same already."""

    part: Part
    revision: str
    stands: bool
    top: bool
    newest: BuildSheet | None
    lines: list[PlannedLine]
    turns_made: bool = False


@dataclass(slots=True)
class Result:
    """All of it, and what keeps it from being saved."""

    sheets: list[PlannedSheet] = field(default_factory=list)
    # By part number, fields in which a part says nothing so far, and what a list says there.
    filled: dict[str, dict[str, str]] = field(default_factory=dict)
    problems: list[tuple[int, str]] = field(default_factory=list)  # key of a line, or 0; words

    def seal(self) -> str:
        """A mark of all that is planned: another plan has another one, so that only what was seen is saved."""
        told = [(s.part.pk, s.revision, s.stands, s.turns_made, [(x.verb, x.part, x.words()) for x in s.lines]) for s in self.sheets]
        return sha256(repr((told, sorted((part, sorted(of.items())) for part, of in self.filled.items()))).encode()).hexdigest()[:16]


def _lacking(part: Part, said: InquiryLine, own: bool, part_class: core.PartClass | None) -> dict[str, str]:
    """What a line says of its part where that says nothing, by its fields and those of its class. A supplier comes with their number, or not
    at all.
    """
    of_class = own_of(said, part_class)[0] if said.own_fields and part_class is not None else {}
    told = {"description": said.description[:2000].strip()} | more_of(said, own)
    if part.supplier_id or part.kind != "bought":
        told.pop("supplier", None)
        told.pop("supplier_number", None)
    lacking = {name: text for name, text in told.items() if text and not getattr(part, "supplier_id" if name == "supplier" else name)}
    return lacking | {OWN + name: text for name, text in of_class.items() if not part.own_values.get(name)}


def make_result(inquiry: Inquiry) -> Result:
    """Hold what was decided against the parts and sheets that exist. A fixed number of queries."""
    found = counting(inquiry).exclude(state="out").defer("proposals", "refused", "waived", "changed")
    lines = {x.pk: x for x in found}
    # Many lines are of the same part: each is read once.
    held = Part.objects.in_bulk({x.part_id for x in lines.values() if x.part_id is not None})
    for line in lines.values():
        line.part = held[line.part_id] if line.part_id is not None else None
    said = {key: core_line(line) for key, line in lines.items()}
    joined = join(said.values())
    result = Result()
    if not joined.sheets:
        result.problems.append((0, "No list holds a line yet."))
    _open_ones(lines, said, joined, result)
    for line in lines.values():
        stops = [f for f in line.findings if f["severity"] == "stops"]
        result.problems += [(line.pk, f"{_called(said[line.pk])}: {f['message']}") for f in stops]
    parts: dict[str, Part] = {}
    classes = {c.name: class_record(c) for c in PartClass.objects.all()}
    for line in lines.values():
        if line.part is not None:
            parts.setdefault(said[line.pk].thing, line.part)
            for name, text in _lacking(line.part, said[line.pk], inquiry.customer_id is None, classes.get(line.part.part_class)).items():
                result.filled.setdefault(line.part.number, {}).setdefault(name, text)
    existing: dict[int, list[BuildSheet]] = defaultdict(list)
    wanted = [parts[t] for t in joined.sheets if t in parts]
    sheets = BuildSheet.objects.filter(part__in=wanted, alternate="A").prefetch_related("lines__part")
    for sheet in sheets:
        existing[sheet.part_id].append(sheet)
    origins = dict(Origin.objects.filter(line__in=list(lines)).values_list("lineage", "line"))
    from_lists = set(
        Origin.objects.filter(lineage__in=[x.lineage for s in sheets for x in s.lines.all()]).values_list("lineage", flat=True)
    )
    for thing, keys in joined.sheets.items():
        part = parts.get(thing)
        if part is None:
            continue
        of_part = sorted(existing[part.pk], key=lambda s: revision_order(s.revision))
        newest = of_part[-1] if of_part else None
        planned = _lines([(lines[k], said[k]) for k in keys], newest, origins, from_lists)
        stands = newest is not None and all(x.verb in ("stays", "not from a list") for x in planned)
        draft = newest is not None and newest.status == "draft"
        revision = newest.revision if newest and (stands or draft) else next_revision(newest.revision) if newest else "A"
        turns = part.kind == "bought" and part.lifecycle == "draft" and not part.unmodelled
        if not PART_KIND[part.kind].takes_sheet and not turns:
            result.problems.append((keys[0], f"{part.number} is a {part.kind} part and has no build sheet."))
        result.sheets.append(PlannedSheet(part, revision, stands, thing in joined.tops, newest, planned, turns))
    result.sheets.sort(key=lambda s: (not s.top, s.part.number))
    return result


def _called(said: InquiryLine) -> str:
    return f"row {said.row}, {said.name}" if said.row else said.name


def _open_ones(lines: dict[int, ListLine], said: dict[int, InquiryLine], joined: Joined, result: Result) -> None:
    # A line that stands elsewhere already is decided there.
    still = [x for x in lines.values() if x.state == "open" and x.pk not in joined.again]
    result.problems += [(x.pk, f"{_called(said[x.pk])}: nobody decided yet what it is") for x in still[:20]]
    if len(still) > 20:
        result.problems.append((0, f"and {len(still) - 20:,} lines more are undecided"))


def _says(part: Part, said: InquiryLine) -> dict[str, Any]:
    """What a line of a list says of a line of a sheet, in plain values."""
    unit = said.unit if said.unit and said.unit != part.unit else ""
    quantity = said.quantity if said.quantity is not None else Decimal(len(said.designators) or 1)
    return {
        "part": part.number,
        "quantity": plain_decimal(quantity),
        "unit": unit or None,
        "reference_designators": said.designators,
        "customer_supplied": said.customer_supplied,
        "not_fitted": said.not_fitted,
        # What a list does not say of scrap, the engineer does.
        **({"scrap_percent": plain_decimal(said.scrap_percent)} if said.scrap_percent is not None else {}),
    }


def _stands(line: Line) -> dict[str, Any]:
    return {
        "part": line.part.number if line.part else None,
        "quantity": plain_decimal(line.quantity) if line.quantity is not None else None,
        "unit": line.unit or None,
        "reference_designators": list(line.reference_designators),
        "customer_supplied": line.customer_supplied,
        "not_fitted": line.not_fitted,
        "scrap_percent": plain_decimal(line.scrap_percent) if line.scrap_percent is not None else None,
    }


def _lines(
    sources: list[tuple[ListLine, InquiryLine]], newest: BuildSheet | None, origins: dict[Any, int], from_lists: set[Any]
) -> list[PlannedLine]:
    """The lines of a sheet: by what they came from, else by their part; what no list ever said is left alone."""
    there = list(newest.lines.all()) if newest is not None else []
    by_source = {origins[x.lineage]: x for x in there if x.lineage in origins}
    by_part: dict[str, list[Line]] = defaultdict(list)
    for line in there:
        if line.part and line.lineage not in origins:
            by_part[line.part.number].append(line)
    planned = []
    for source, said in sources:
        if source.part is None:
            continue
        was = by_source.pop(source.pk, None)
        if was is None and by_part[source.part.number]:
            was = by_part[source.part.number].pop(0)
        says = _says(source.part, said)
        if was is None:
            item = said.item
            values = says | ({"item": int(item)} if item.isdecimal() and 0 < int(item) < 10**6 else {})
            planned.append(PlannedLine("new", source.part.number, values, None, source))
            continue
        stands = _stands(was)
        other = {n: v for n, v in says.items() if v != stands[n]}
        planned.append(PlannedLine("changed" if other else "stays", source.part.number, other, was, source))
    matched = {x.was.pk for x in planned if x.was is not None}
    for line in there:
        if line.pk not in matched:
            verb = "gone" if line.lineage in from_lists else "not from a list"
            planned.append(PlannedLine(verb, line.part.number if line.part else line.text[:60], {}, line))
    return planned
