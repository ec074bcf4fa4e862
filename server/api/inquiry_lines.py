"""The lines of an inquiry over HTTP: as columns, the evidence beside one, and what is decided on them."""

from typing import Any, Literal, cast

from accounts.access import sees_costs
from django.http import HttpRequest
from inquiries.actions.ask_sender import ask_sender
from inquiries.actions.decide import Asked, decide, take_back
from inquiries.actions.make_parts import NewPart, make_parts, suggested_class
from inquiries.actions.mend_line import mend_line, waive_on_line
from inquiries.evidence import evidence_of, like
from inquiries.lines import counting
from inquiries.reads import line_columns
from ninja import Router, Schema
from tally_core.basics.errors import MissingError

from api.inquiries import the_inquiry

router = Router(tags=["inquiries"])


class LineColumns(Schema):
    """Rows as columns: ``same`` holds what is one value in all of them, ``each`` the others."""

    count: int
    same: dict[str, Any]
    each: dict[str, list[Any]]


class LinesOut(Schema):
    """Lines written since a stamp, and the stamp up to which that is; ``whole``: all of them, in the place of what was there."""

    stamp: int
    whole: bool
    table: LineColumns


class Ledger(Schema):
    """A field of both texts, in their own words, and the verdict."""

    field: str
    theirs: str
    ours: str
    verdict: str


class CouldBe(Schema):
    """A part of ours that a line may be."""

    part: str
    description: str
    kind: str
    lifecycle: str
    on_stock: bool
    maker: str
    maker_number: str
    road: str
    certain: bool
    ledger: list[Ledger]


class TextOut(Schema):
    """What a field says; ``own`` is the sender's text where it was mended."""

    field: str
    word: str
    text: str
    own: str | None


class SpanOut(Schema):
    start: int
    end: int
    field: str


class QuestionOut(Schema):
    id: int
    about: str
    field: str
    text: str
    asked_by: str
    asked_at: str
    answer: str


class DecisionOut(Schema):
    verb: str
    words: str
    part: str
    by: str
    at: str
    back: bool
    batch: int


class DataOut(Schema):
    """What parts data say of a line's maker's number, and since when that is known."""

    words: str
    description: str
    day: str


class EvidenceOut(Schema):
    """Everything that stands beside a line. ``spans`` are places in its description that were read."""

    line: int
    stamp: int
    texts: list[TextOut]
    spans: list[SpanOut]
    kind: str
    proposals: list[CouldBe]
    refused: list[str]
    layout: str
    data: DataOut | None
    questions: list[QuestionOut]
    decisions: list[DecisionOut]


class AskedIn(Schema):
    """A decision; ``seen`` is the stamp of the line when it was made, ``over`` says that another's is known and goes."""

    line: int
    seen: int
    verb: Literal["take", "refuse", "out", "open"]
    part: str = ""
    over: bool = False


class MetOut(Schema):
    """A line that somebody else decided meanwhile; it stays as they left it until one of the two is chosen."""

    line: int
    by: str
    part: str
    state: str
    yours: str


class DecidedOut(Schema):
    """What was written, as one batch that can be taken back (0: nothing)."""

    batch: int
    lines: list[int]
    met: list[MetOut]


class MendIn(Schema):
    """``text`` is None to take the sender's own word again."""

    seen: int
    field: str
    text: str | None = None


class WaiverOnLine(Schema):
    """``reason`` is None to take a waiver back."""

    seen: int
    code: str
    reason: str | None = None


class AskIn(Schema):
    about: str = "free"
    field: str = ""
    text: str


class NewPartIn(Schema):
    line: int
    seen: int
    number: str = ""
    part_class: str = ""
    description: str = ""


class Suggested(Schema):
    part_class: str


@router.get("/{inquiry_id}/lines", response=LinesOut)
def lines(request: HttpRequest, inquiry_id: int, since: int = 0) -> Any:
    """The lines that were written since a stamp; 0 for all."""
    return line_columns(the_inquiry(inquiry_id), since)


@router.get("/{inquiry_id}/lines/{line_id}", response=EvidenceOut)
def evidence(request: HttpRequest, inquiry_id: int, line_id: int) -> Any:
    """What stands beside a line."""
    return evidence_of(the_inquiry(inquiry_id), line_id)


@router.get("/{inquiry_id}/lines/{line_id}/like", response=list[CouldBe])
def parts_like(request: HttpRequest, inquiry_id: int, line_id: int, search: str = "") -> Any:
    """Parts of ours that some words find, each held against the line."""
    return like(the_inquiry(inquiry_id), line_id, search, sees_costs(request.user))


@router.get("/{inquiry_id}/lines/{line_id}/class", response=Suggested)
def its_class(request: HttpRequest, inquiry_id: int, line_id: int) -> Any:
    """The class in which most of our parts of the line's kind stand."""
    line = counting(the_inquiry(inquiry_id)).filter(pk=line_id).first()
    if line is None:
        raise MissingError("This line is no longer there.")
    return Suggested(part_class=suggested_class(line))


@router.post("/{inquiry_id}/decisions", response=DecidedOut)
def decisions(request: HttpRequest, inquiry_id: int, payload: list[AskedIn]) -> Any:
    """Decide on lines, as one step."""
    batch, written, met = decide(request.user, inquiry_id, [cast(Asked, a.dict()) for a in payload])
    return DecidedOut(batch=batch, lines=[x.pk for x in written], met=[MetOut(**m) for m in met])


@router.post("/{inquiry_id}/decisions/{batch}/back", response=DecidedOut)
def decisions_back(request: HttpRequest, inquiry_id: int, batch: int) -> Any:
    """Take a step back."""
    return DecidedOut(batch=0, lines=[x.pk for x in take_back(request.user, inquiry_id, batch)], met=[])


@router.post("/{inquiry_id}/parts", response=DecidedOut)
def new_parts(request: HttpRequest, inquiry_id: int, payload: list[NewPartIn]) -> Any:
    """Make parts out of lines, and hold the lines for them."""
    batch, written = make_parts(request.user, inquiry_id, [cast(NewPart, p.dict()) for p in payload])
    return DecidedOut(batch=batch, lines=[x.pk for x in written], met=[])


@router.post("/{inquiry_id}/lines/{line_id}/mend", response=EvidenceOut)
def mend(request: HttpRequest, inquiry_id: int, line_id: int, payload: MendIn) -> Any:
    """Set right what a line says."""
    mend_line(request.user, inquiry_id, line_id, payload.seen, payload.field, payload.text)
    return evidence_of(the_inquiry(inquiry_id), line_id)


@router.post("/{inquiry_id}/lines/{line_id}/waive", response=EvidenceOut)
def waive(request: HttpRequest, inquiry_id: int, line_id: int, payload: WaiverOnLine) -> Any:
    """Let a finding stand with a reason, or no longer."""
    waive_on_line(request.user, inquiry_id, line_id, payload.seen, payload.code, payload.reason)
    return evidence_of(the_inquiry(inquiry_id), line_id)


@router.post("/{inquiry_id}/lines/{line_id}/ask", response=EvidenceOut)
def ask(request: HttpRequest, inquiry_id: int, line_id: int, payload: AskIn) -> Any:
    """Put something to the sender."""
    ask_sender(request.user, inquiry_id, line_id, payload.about, payload.field, payload.text)
    return evidence_of(the_inquiry(inquiry_id), line_id)
