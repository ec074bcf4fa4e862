"""Inquiries as they are read: the list of them, one with its files, its lines as columns, its questions. Fixed numbers of queries."""

from collections import defaultdict
from typing import Any

from definition.firm import signed
from definition.records import plain_decimal
from django.db.models import Count, Q
from formats.flat import Column, list_workbook
from readings.wire import table
from tally_core.inquiries.line import in_short, own_words

from inquiries.lines import core_line, counting
from inquiries.models import Build, Inquiry, InquiryFile, ListLine, Product, Question, RememberedPair

__all__ = ["builds_of", "counts_of", "files_of", "head", "line_columns", "pairs_of", "products_of", "questions_mail", "questions_workbook"]


def counts_of(inquiries: list[Inquiry]) -> dict[int, dict[str, int]]:
    """How far inquiries are: lines, decided ones, and those that stop."""
    rows = (
        ListLine.objects.filter(inquiry__in=inquiries, file__replaced_by=None)
        .values_list("inquiry")
        .annotate(
            lines=Count("id"),
            decided=Count("id", filter=~Q(state="open")),
            stops=Count("id", filter=Q(findings__contains=[{"severity": "stops"}])),
        )
    )
    found = {key: {"lines": n, "decided": d, "stops": s} for key, n, d, s in rows}
    return {i.pk: found.get(i.pk, {"lines": 0, "decided": 0, "stops": 0}) for i in inquiries}


def head(inquiry: Inquiry, counts: dict[str, int]) -> dict[str, Any]:
    """What stands at the head of an inquiry."""
    names = ("id", "number", "title", "their_reference", "state", "held_by", "note", "opened_by", "version", "stamp")
    return {
        **{n: getattr(inquiry, n) for n in names},
        "customer": inquiry.customer.name if inquiry.customer else "",
        "customer_code": inquiry.customer.code if inquiry.customer else "",
        "wanted_by": inquiry.wanted_by.isoformat() if inquiry.wanted_by else None,
        "opened_at": inquiry.opened_at.isoformat(),
        **counts,
    }


#: What of a line is sent as the sender wrote it or as it was mended.
_SAID = ("item", "part", "description", "quantity", "unit", "maker", "maker_number", "note", "value", "case", "material")


def line_columns(inquiry: Inquiry, since: int) -> dict[str, Any]:
    """Lines that were written since a stamp, as columns; all of them, in the order of their lists, where some came or went since."""
    whole = since <= inquiry.laid
    # Part rows are wide, and a list has thousands of lines.
    shown = [c.name for c in ListLine._meta.concrete_fields] + ["part__number", "part__description"]
    rows = counting(inquiry).select_related("part").only(*shown).order_by("file", "position", "id")
    lines = list(rows if whole else rows.filter(stamp__gte=since))
    asked: dict[int, list[int]] = defaultdict(lambda: [0, 0])
    questions = Question.objects.filter(line__inquiry=inquiry)
    for key, answered in (questions if whole else questions.filter(line__in=lines)).values_list("line", "answered_at"):
        asked[key][answered is not None] += 1
    said = [x.as_mended() for x in lines]
    columns: dict[str, Any] = {
        "id": [x.pk for x in lines],
        "file": [x.file_id for x in lines],
        "sheet": [x.sheet for x in lines],
        "row": [x.row for x in lines],
        "level": [core_line(x).level for x in lines],
        "parent": [s.get("parent") or "" for s in said],
        "designators": [in_short(s.get("designators") or ()) for s in said],
        "not_fitted": [bool(s.get("not_fitted")) for s in said],
        "customer_supplied": [bool(s.get("customer_supplied")) for s in said],
        "mended": [sorted(x.mended) for x in lines],
        "state": [x.state for x in lines],
        "ours": [x.part.number if x.part else "" for x in lines],
        "our_description": [x.part.description if x.part else "" for x in lines],
        "road": [x.road for x in lines],
        "by": [x.decided_by for x in lines],
        "proposals": [_first(x) for x in lines],
        "findings": [_findings(x) for x in lines],
        "changed": [x.changed for x in lines],
        "asked": [asked[x.pk][0] for x in lines],
        "answered": [asked[x.pk][1] for x in lines],
        "stamp": [x.stamp for x in lines],
    }
    columns["own_fields"] = [own_words(s.get("own_fields") or {}) for s in said]
    for name in _SAID:
        columns[name] = [str(s.get(name) or "") if s.get(name) != 0 else "0" for s in said]
    return {"stamp": inquiry.stamp, "whole": whole, "table": table(columns)}


def _first(line: ListLine) -> list[Any]:
    """How many proposals stand, and of the first its part, its road and whether it is certain."""
    standing = [p for p in line.proposals if p["part"] not in line.refused]
    if not standing:
        return [0, "", "", False]
    return [len(standing), standing[0]["part"], standing[0]["road"], standing[0]["certain"]]


def _findings(line: ListLine) -> list[dict[str, Any]]:
    """What is found; a waiver holds as long as the finding says the same."""
    shown = []
    for f in line.findings:
        waiver = line.waived.get(f["code"])
        holds = waiver is not None and waiver.get("of") == f["message"]
        shown.append(f | {"waived": waiver if holds else None})
    return shown


def files_of(inquiry: Inquiry) -> list[dict[str, Any]]:
    """Its files, each with how many lines it holds. Four queries; cells and places stay where they are."""
    files = InquiryFile.objects.filter(inquiry=inquiry)
    counts = dict(ListLine.objects.filter(inquiry=inquiry).order_by().values_list("file").annotate(n=Count("id")))
    placed = set(files.exclude(places=[]).values_list("pk", flat=True))
    billed = set(files.filter(role__in=("layout", "list"), grid__0__name="bill", grid__0__has_key="said").values_list("pk", flat=True))
    return [
        {
            "id": f.pk,
            "name": f.name,
            "role": f.role,
            "replaced_by": f.replaced_by_id,
            "lines": counts.get(f.pk, 0),
            "places": f.pk in placed,
            "bill": f.pk in billed,
            "taken": [f"{t['name']} {t['description']}".strip() + (f", row {t['row']}" if t["row"] else "") for t in f.taken],
            "maps": {sheet: m.get("from", "") for sheet, m in (f.column_map or {}).items()},
            "troubles": [t["message"] for t in f.troubles],
            "added_by": f.added_by,
            "added_at": f.added_at.isoformat(),
        }
        for f in files.defer("grid", "places", "board")
    ]


def builds_of(inquiry: Inquiry) -> list[dict[str, Any]]:
    """How many of what are wanted."""
    return [
        {
            "id": b.pk,
            "line": b.line_id,
            "product": (b.line.part.number if b.line.part else core_line(b.line).name),
            "quantity": plain_decimal(b.quantity),
            "wanted_by": b.wanted_by.isoformat() if b.wanted_by else None,
        }
        for b in Build.objects.filter(inquiry=inquiry).select_related("line__part")
    ]


def products_of(inquiry: Inquiry) -> list[dict[str, Any]]:
    """The sheets it became, its tops first."""
    rows = Product.objects.filter(inquiry=inquiry).select_related("sheet__part").order_by("-top", "sheet__part__number")
    return [
        {"sheet": p.sheet_id, "part": p.sheet.part.number, "revision": p.sheet.revision, "status": p.sheet.status, "top": p.top}
        for p in rows
    ]


def pairs_of(code: str) -> list[dict[str, Any]]:
    """What is remembered of a sender, by its code: their numbers, our parts, and who decided when."""
    rows = RememberedPair.objects.filter(customer__code=code).select_related("part")
    return [
        {
            "id": p.pk,
            "number": p.number,
            "part": p.part.number,
            "described": p.told.get("description", ""),
            "by": p.decided_by,
            "at": p.decided_at.isoformat(),
        }
        for p in rows
    ]


# -- questions to the sender

_TITLES = ("question no.", "row", "number", "description", "designators", "quantity", "question", "answer")
#: What questions are about, by the code of their finding: the headings of the mail.
ABOUT = {
    "designator-count": "Quantities and designators",
    "designator-twice": "Designators",
    "case-size-of-layout": "Case sizes against the layout",
    "case-size-of-part": "Case sizes against the layout",
    "not-on-layout": "Places on no layout",
    "fitted-on-layout": "Fitted or not",
    "ended": "Parts that have ended",
    "no-number": "Missing numbers",
    "no-quantity": "Missing quantities",
    "unread": "What could not be read",
    "no-value": "Values that we do not know",
    "unit": "Units",
    "free": "Further questions",
}


def _open_questions(inquiry: Inquiry) -> list[Question]:
    rows = Question.objects.filter(line__inquiry=inquiry, line__file__replaced_by=None, answered_at=None)
    return sorted(
        rows.select_related("line__file").defer("line__file__grid", "line__file__places"),
        key=lambda q: (list(ABOUT).index(q.about) if q.about in ABOUT else len(ABOUT), q.line.file_id, q.line.row, q.pk),
    )


def questions_workbook(inquiry: Inquiry) -> bytes:
    """The open questions as a workbook to be filled in and sent back, in the words and rows of the sender's own list."""
    rows: list[list[Any]] = []
    for q in _open_questions(inquiry):
        said = core_line(q.line)
        quantity = "" if said.quantity is None else f"{said.quantity.normalize() + 0:f} {said.unit}".strip()
        where = str(q.line.row) if q.line.row else "head"
        rows.append([str(q.pk), where, said.part or said.maker_number, said.description, in_short(said.designators), quantity, q.text, ""])
    return list_workbook(f"Questions {inquiry.number}", [Column(t) for t in _TITLES], rows)


def questions_mail(inquiry: Inquiry) -> dict[str, Any]:
    """The open questions as a mail to look at, grouped by what they are about."""
    lines = [f"Questions on {inquiry.title}" + (f", your reference {inquiry.their_reference}" if inquiry.their_reference else ""), ""]
    about = ""
    for q in _open_questions(inquiry):
        heading = ABOUT.get(q.about, "Further questions")
        if heading != about:
            lines += [heading] if not about else ["", heading]
            about = heading
        said = core_line(q.line)
        lines.append(f"  {q.line.file.name}, row {q.line.row}, {said.name}: {q.text}")
    lines += ["", "Please fill in the column “answer” of the workbook and send it back, or answer by mail."]
    return {
        "to": inquiry.customer.mail if inquiry.customer else "",
        "subject": f"{inquiry.number}: questions on {inquiry.title}",
        "body": signed("\n".join(lines)),
        "count": len(_open_questions(inquiry)),
    }
