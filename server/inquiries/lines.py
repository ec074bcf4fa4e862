"""The lines of an inquiry that count, as the core sees them, and the one way in which they are written."""

import re
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from django.db import connection
from django.db.models import F, QuerySet
from tally_core.basics.errors import MissingError, Problem
from tally_core.inquiries.layout import Place
from tally_core.inquiries.line import InquiryLine
from tally_core.stated.classes import read_values
from tally_core.stated.definition import PartClass

from inquiries.models import Inquiry, InquiryFile, ListLine

__all__ = ["core_line", "core_places", "counting", "held_inquiry", "laid", "layouts_of", "more_of", "own_of", "thing_of", "written"]


def held_inquiry(inquiry_id: int) -> Inquiry:
    """An inquiry, held until the caller's transaction ends, so that its writes come one after another. Raises MissingError."""
    inquiry = Inquiry.objects.select_for_update(of=("self",)).filter(pk=inquiry_id).first()
    if inquiry is None:
        raise MissingError("This inquiry is no longer there.")
    return inquiry


def counting(inquiry: Inquiry) -> QuerySet[ListLine]:
    """Its lines, without those of lists that a later revision replaced."""
    return ListLine.objects.filter(inquiry=inquiry, file__replaced_by=None).annotate(file_name=F("file__name"))


def core_line(line: ListLine) -> InquiryLine:
    """A line as mended. Its list is named by its file and sheet."""
    name = f"{line.file_id}/{line.sheet}" if line.sheet else str(line.file_id)
    return InquiryLine.of(line.pk, name, line.row, line.as_mended(), getattr(line, "file_name", ""))


def more_of(said: InquiryLine, own: bool) -> dict[str, str]:
    """What a line says of a part in other columns, by the part's fields; supplier and their number only of a list of our ``own``."""
    told = {"material": said.material[:200]}
    if re.fullmatch(r"https?://[^\s\"<>]{3,500}", said.link.strip(), re.IGNORECASE):
        told["supplier_link"] = said.link.strip()
    if own and said.supplier:
        told |= {"supplier": said.supplier[:200], "supplier_number": said.supplier_number[:200]}
    return {name: text.strip() for name, text in told.items() if text.strip()}


def own_of(said: InquiryLine, part_class: PartClass) -> tuple[dict[str, str], list[Problem]]:
    """What a line says in fields of a class, as they are kept, and what is no value of its field, by the field's name."""
    choices = {f.name: {c.casefold(): c for c in f.choices} for f in part_class.fields if f.kind != "computed"}
    typed = {n: choices[n].get(text.casefold(), text) for n, text in said.own_fields.items() if n in choices}
    return read_values(part_class, typed)


def thing_of(line: ListLine) -> str:
    """What a line is of, as it is kept with it."""
    thing = core_line(line).thing
    return "" if thing.startswith("·") else thing


def layouts_of(inquiry: Inquiry) -> list[InquiryFile]:
    """Its files that say where components stand and count, the first the first."""
    return list(InquiryFile.objects.filter(inquiry=inquiry, replaced_by=None).exclude(places=[]).defer("grid").order_by("id"))


def core_places(places: list[dict[str, Any]]) -> dict[str, Place]:
    """The places that a file keeps, as the core sees them, by designator in capital letters."""
    return {
        p["designator"].upper(): Place(
            p.get("package", ""), p.get("side", ""), p.get("fitted", True), Decimal(p["x_mm"]), Decimal(p["y_mm"]), Decimal(p["rotation"])
        )
        for p in places
    }


def laid(inquiry: Inquiry) -> None:
    """Note that lines came or went; the caller holds the inquiry."""
    inquiry.stamp += 1
    inquiry.laid = inquiry.stamp
    Inquiry.objects.filter(pk=inquiry.pk).update(stamp=inquiry.stamp, laid=inquiry.laid)


def written(inquiry: Inquiry, lines: Iterable[ListLine], fields: list[str]) -> None:
    """Write fields of some lines under a new stamp, by which who looks on finds them; the caller holds the inquiry."""
    lines = list(lines)
    if not lines:
        return
    inquiry.stamp += 1
    for line in lines:
        line.stamp = inquiry.stamp
    Inquiry.objects.filter(pk=inquiry.pk).update(stamp=inquiry.stamp)
    columns = [c for c in ListLine._meta.concrete_fields if c.name in {*fields, "stamp"}]
    places = ", ".join(f'"{c.column}" = %s' for c in columns)
    values = [(*(c.get_db_prep_save(getattr(x, c.attname), connection) for c in columns), x.pk) for x in lines]
    # A statement for each, sent together: one statement for all of them is ten times as long in the making.
    with connection.cursor() as cursor:
        cursor.executemany(f"UPDATE inquiries_listline SET {places} WHERE id = %s", values)
