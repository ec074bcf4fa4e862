"""What is found on the lines of an inquiry, kept with them, so that a list of findings is only read."""

from collections import defaultdict
from typing import Any

from definition.models.parts import PartClass
from definition.records import class_record
from django.db import transaction
from django_tasks import task
from readings.pairing import texts_of
from tally_core.checks.finding import LOOK, STOPS
from tally_core.inquiries.boards import find_boards
from tally_core.inquiries.check import Held, Known, check_lines
from tally_core.inquiries.join import join
from tally_core.inquiries.layout import Place, layout_words
from tally_core.inquiries.line import InquiryLine
from tally_core.pairing.numbers import fold
from tally_core.stated import definition as core

from inquiries.lines import core_line, core_places, counting, layouts_of, own_of, written
from inquiries.models import Inquiry, ListLine, NumberData, RememberedPair

__all__ = ["MOST_AT_ONCE", "check", "check_later"]

#: Up to so many lines are checked with the write that changed one; more wait for the worker.
MOST_AT_ONCE = 2000
#: What the part does not get from a line; its sheet is made all the same.
_LACKS = {"severity": LOOK, "mend": "type it on the part, or ask; without it the part does not get it from here"}


def check(inquiry: Inquiry) -> None:
    """Look through all lines and keep what is found where it is another than before. Within a transaction that holds the inquiry."""
    lines = list(counting(inquiry).select_related("part"))
    found: dict[int, list[dict[str, Any]]] = defaultdict(list)
    for line in lines:
        for trouble in _unread(line):
            found[line.pk].append(trouble)
    standing = [core_line(x) for x in lines if x.state != "out"]
    layouts = [core_places(f.places) for f in layouts_of(inquiry)]
    for finding in check_lines(standing, _held(inquiry, lines), layouts, _known(standing)):
        unread = {f["field"] for f in found[finding.key] if f["code"] == "unread"}
        if finding.code == "no-quantity" and "quantity" in unread:
            continue
        found[finding.key].append({n: getattr(finding, n) for n in ("code", "severity", "message", "mend", "field")})
    classes = {c.name: class_record(c) for c in PartClass.objects.exclude(fields=[])}
    for line in lines:
        if line.part is not None and line.part.part_class in classes:
            found[line.pk] += _no_values(core_line(line), classes[line.part.part_class])
    words = _layout_words(standing, layouts)
    changed = [x for x in lines if (x.findings, x.layout) != (found.get(x.pk, []), words.get(x.pk, ""))]
    for line in changed:
        line.findings, line.layout = found.get(line.pk, []), words.get(line.pk, "")
    written(inquiry, changed, ["findings", "layout"])


@task()
def check_later(inquiry_id: int, stamp: int) -> None:
    """Look through the lines of a large inquiry, unless something was written after the stamp: then that is checked."""
    with transaction.atomic():
        inquiry = Inquiry.objects.select_for_update(of=("self",)).filter(pk=inquiry_id, stamp=stamp).first()
        if inquiry is not None:
            check(inquiry)


def _layout_words(lines: list[InquiryLine], layouts: list[dict[str, Place]]) -> dict[int, str]:
    if not layouts:
        return {}
    boards = find_boards(lines, join(lines), layouts)
    return {x.key: layout_words(x, boards.places_of(x) or {}) for x in lines if x.designators}


def _unread(line: ListLine) -> list[dict[str, Any]]:
    """What of a row could not be read, until it is mended; without what it says in a field of ours a sheet can be made all the same."""
    stops = {"severity": STOPS, "mend": "type what is meant, or ask"}
    return [
        {"code": "unread", "message": t["message"], "field": t["field"]} | (_LACKS if t["field"] == "own_fields" else stops)
        for t in line.said.get("troubles", ())
        if t["field"] not in line.mended
    ]


def _no_values(said: InquiryLine, part_class: core.PartClass) -> list[dict[str, Any]]:
    """What a line says in fields of its part's class that is no value of theirs."""
    return [
        {
            "code": "no-value",
            "message": f"{p.place.replace('_', ' ')} “{said.own_fields[p.place][:60]}”: {p.message}",
            "field": "own_fields",
        }
        | _LACKS
        for p in own_of(said, part_class)[1]
    ]


def _known(lines: list[InquiryLine]) -> dict[int, Known]:
    """What parts data say of the lines' makers' numbers; a number that was not asked yet says nothing."""
    folded = {x.key: fold(x.maker_number)[:200] for x in lines if x.maker_number}
    said = dict(NumberData.objects.filter(folded__in=set(folded.values())).values_list("folded", "data"))
    return {
        key: Known(bool(d), d.get("lifecycle", ""), d.get("case", ""), d.get("replacement", ""))
        for key, number in folded.items()
        if (d := said.get(number)) is not None
    }


def _held(inquiry: Inquiry, lines: list[ListLine]) -> dict[int, Held]:
    parts = {x.part for x in lines if x.part is not None}
    texts = texts_of(parts)
    told = {}
    if inquiry.customer_id:
        pairs = RememberedPair.objects.filter(customer__name=inquiry.customer_id, part__in=[p.pk for p in parts])
        told = {(p.folded, p.part_id): p.told for p in pairs}
    return {
        x.pk: Held(
            x.part.number,
            texts[x.part.pk],
            x.part.unit,
            x.part.kind,
            x.part.lifecycle,
            x.road,
            told.get((fold(x.as_mended().get("part") or ""), x.part.pk), {}),
        )
        for x in lines
        if x.part is not None
    }
