"""Make new parts out of lines that nothing of ours is like, and hold the lines for them."""

from typing import Any, TypedDict

from accounts.access import require
from definition.models.parts import MakerNumber, Part, PartClass
from definition.records import class_record
from django.db.models import Count
from partners.naming import partners_named
from readings.renumbering import free_numbers
from simple_history.utils import bulk_create_with_history
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.inquiries.join import Joined, join
from tally_core.inquiries.line import InquiryLine
from tally_core.pairing.describe import describe
from verbs.contract import writing
from verbs.parts.save_parts import save_parts

from inquiries.deciding import Step, keep
from inquiries.lines import core_line, counting, held_inquiry, more_of, own_of
from inquiries.models import Inquiry, ListLine, PartSaid

__all__ = ["NewPart", "make_parts", "suggested_class"]


class NewPart(TypedDict):
    """A part to make of a line; an empty ``number`` is the next of the class, or the sender's own where there is no class."""

    line: int
    seen: int
    number: str
    part_class: str
    description: str


def make_parts(user, inquiry_id: int, wanted: list[NewPart]) -> tuple[int, list[ListLine]]:
    """Make drafts of parts, each thing once, and hold all open lines of it for them, as one step.

    Maker, maker's number, case, material, link, columns named like fields of the class, and what those are called in the text come with them; unit cost and supplier only
    of a list of our own, since what a customer writes is neither our price nor where we buy. Raises ProblemsError, TallyError where a line was decided meanwhile, and Refused.
    """
    require(user, "parts")
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        rows = list(counting(inquiry).select_related("part"))
        lines = {x.pk: x for x in rows}
        chosen = [(lines[w["line"]], w) for w in wanted if w["line"] in lines]
        if len(chosen) < len(wanted) or not chosen:
            raise TallyError("One of these lines is no longer there; look again.")
        if any(x.state != "open" and x.stamp > w["seen"] for x, w in chosen):
            raise TallyError("One of these lines was decided by somebody else just now; look again.")
        joined = join([core_line(x) for x in rows if x.state != "out"])
        # Whatever order files came in, a thing is made from its lines in one order.
        chosen.sort(key=lambda c: _place(c[0]))
        things: dict[str, tuple[ListLine, NewPart]] = {}
        for line, w in chosen:
            things.setdefault(core_line(line).thing, (line, w))
        said = _together([x for x in rows if x.state != "out"])
        numbers = _numbers(things)
        _refuse_known(numbers, things)
        classes = {c.name: c for c in PartClass.objects.filter(name__in={w["part_class"] for _, w in things.values()})}
        save_parts(
            user,
            [
                {"number": numbers[t], "version": None, "fields": _fields(inquiry, said[t], w, joined, classes)}
                for t, (_, w) in things.items()
            ],
            f"inquiry {inquiry.number}",
        )
        parts = {p.number: p for p in Part.objects.filter(number__in=numbers.values())}
        _makers(user, inquiry, {t: said[t] for t in things}, numbers, parts)
        steps = [
            Step(x, "take", {"state": "paired", "part": parts[numbers[core_line(x).thing]], "road": "new"}, "new")
            for x in rows
            if (x.state == "open" or x.pk in {c.pk for c, _ in chosen}) and core_line(x).thing in things
        ]
        return keep(inquiry, steps, user), [s.line for s in steps]


#: What a line of a thing may say that another leaves out.
_TOLD = ("part", "description", "unit", "maker", "maker_number", "unit_cost", "material", "supplier", "supplier_number", "link", "case")


def _place(line: ListLine) -> tuple[str, str, int]:
    return core_line(line).called, line.sheet, line.row


def _together(lines: list[ListLine]) -> dict[str, InquiryLine]:
    """What all lines of each thing say of it together: the first that says something, by the names of their files and their rows."""
    found: dict[str, InquiryLine] = {}
    for line in sorted(lines, key=_place):
        said = core_line(line)
        first = found.setdefault(said.thing, said)
        first.own_fields = said.own_fields | first.own_fields
        for name in _TOLD:
            if getattr(first, name) in ("", None):
                setattr(first, name, getattr(said, name))
    return found


def _numbers(things: dict[str, tuple[ListLine, NewPart]]) -> dict[str, str]:
    numbers: dict[str, str] = {}
    by_class: dict[str, list[str]] = {}
    for thing, (line, w) in things.items():
        if w["number"].strip():
            numbers[thing] = w["number"].strip()
        elif w["part_class"]:
            by_class.setdefault(w["part_class"], []).append(thing)
        else:
            said = core_line(line)
            numbers[thing] = (said.part or said.maker_number)[:64]
            if not numbers[thing]:
                raise ProblemsError([Problem("number", f"row {line.row} has no number: choose a class that gives one, or type it")])
    for name, some in by_class.items():
        numbers |= dict(zip(some, free_numbers(name, len(some)), strict=True))
    return numbers


def _refuse_known(numbers: dict[str, str], things: dict[str, tuple[ListLine, NewPart]]) -> None:
    known = {p.upper(): p for p in Part.objects.filter(number__in=numbers.values()).values_list("number", flat=True)}
    problems = [
        Problem("number", f"row {things[t][0].row}: {n} is a part already; take it, or give another number")
        for t, n in numbers.items()
        if n.upper() in known
    ]
    if problems:
        raise ProblemsError(problems)


def _fields(inquiry: Inquiry, said: InquiryLine, w: NewPart, joined: Joined, classes: dict[str, PartClass]) -> dict[str, Any]:
    fields: dict[str, Any] = {
        "description": (w["description"].strip() or said.description)[:2000],
        "kind": "made" if said.thing in joined.sheets else "bought",
        "unit": said.unit or "ea",
        "lifecycle": "draft",
        "part_class": w["part_class"],
    }
    fields |= more_of(said, inquiry.customer_id is None)
    if inquiry.customer_id is None and said.unit_cost is not None:
        fields["unit_cost"] = f"{said.unit_cost:f}"
    row = classes.get(w["part_class"])
    if row is not None:
        found = describe(said.description).fields
        own = {
            f["name"]: said.description[at.start : at.end].strip()
            for f in row.fields
            if f.get("kind", "text") == "text" and (at := found.get(f["name"].casefold().replace(" ", "_")))
        }
        own |= own_of(said, class_record(row))[0]
        if own:
            fields["own_values"] = own
    return fields


def _makers(user: Any, inquiry: Inquiry, said: dict[str, InquiryLine], numbers: dict[str, str], parts: dict[str, Part]) -> None:
    with_maker = {t: x for t, x in said.items() if x.maker and x.maker_number}
    named = partners_named([x.maker[:200] for x in with_maker.values()], "maker", user)
    rows = []
    for thing, x in with_maker.items():
        case = describe(x.words).fields.get("case")
        rows.append(
            MakerNumber(
                part=parts[numbers[thing]],
                rank=1,
                maker_id=named[x.maker[:200]],
                number=x.maker_number[:200],
                package=str(case.value) if case else "",
            )
        )
    if rows:
        bulk_create_with_history(rows, MakerNumber, default_user=user, default_change_reason=f"inquiry {inquiry.number}")


def suggested_class(line: ListLine) -> str:
    """The class in which most of our parts of the line's kind stand; empty where none does. One query."""
    kind = describe(core_line(line).words).kind
    if not kind:
        return ""
    said = PartSaid.objects.filter(kind=kind).exclude(part__part_class="").exclude(part__lifecycle="obsolete")
    classes = said.values_list("part__part_class").annotate(n=Count("part")).order_by("-n", "part__part_class")
    return next((name for name, _ in classes[:1]), "")
