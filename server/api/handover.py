"""Handing over, over HTTP: both sides beside one another, decisions, the change sheet, writing it."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from handover.actions import add_by_hand as by_hand
from handover.actions.decide import Decided, decide
from handover.actions.hand_over import finish_handover, hand_over, take_handover_back
from handover.actions.know_as import know_as
from handover.actions.let_go import let_go_handover
from handover.actions.open_handover import open_handover
from handover.actions.read_again import read_again
from handover.known_as import book_of
from handover.models import Handover
from handover.papers import change_sheet_pdf, change_sheet_workbook
from handover.reads import handover_heads, handover_named, rows_of, who_moved
from ninja import Router, Schema
from outside.calling import CallFailed
from outside.services import record_services
from tally_core.basics.errors import TallyError

from api.compared import ChangeSheet, CompareOut
from api.jobs import JobOut

__all__ = ["router"]

router = Router(tags=["handover"])


class LogLine(Schema):
    """What happened to a handover."""

    at: str
    by: str
    words: str


class HandoverWhyNot(Schema):
    """For each action why it cannot be done with a handover as it stands, in words; null where it can."""

    change: str | None
    let_go: str | None
    settle: str | None


class HandoverOut(Schema):
    """A handover; ``sheets``: the parts whose sheets were chosen, none for the product with all beneath it; ``job`` while the other side is read
    or written, ``failed``: why that was not finished."""

    id: int
    number: str
    record: str
    top: str
    description: str
    sheets: list[str]
    state: str
    version: int
    opened_by: str
    opened_at: str
    read_at: str | None
    ended_by: str
    ended_at: str | None
    log: list[LogLine]
    job: JobOut | None
    failed: str
    why_not: HandoverWhyNot


class RecordNamed(Schema):
    """A system of record by our own name for it."""

    name: str
    words: str


class HandoversOut(Schema):
    """All of them, the newest first, and the systems of record there are."""

    handovers: list[HandoverOut]
    records: list[RecordNamed]


class HandoverShown(Schema):
    """A handover with its rows; ``compared`` is empty until the other side was read, ``written`` the change sheet of one that is done."""

    head: HandoverOut
    compared: CompareOut | None
    written: ChangeSheet | None


class MovedBy(Schema):
    """Who set a field here."""

    field: str
    by: str
    at: str
    reason: str


class WhoMoved(Schema):
    """Who set the fields of a row here, and who last wrote theirs."""

    ours: list[MovedBy]
    their_by: str
    their_at: str


class TheirItem(Schema):
    """An item of theirs."""

    code: str
    text: str


class OpenHandoverIn(Schema):
    """A product to hold beside a system of record; with ``beside`` its own sheet alone and those of these parts."""

    record: str
    top: str
    beside: list[str] | None = None


class DecisionIn(Schema):
    """See ``handover.actions.decide``."""

    row: str
    field: str = ""
    choice: str = ""
    of: str = ""


class DecisionsIn(Schema):
    """Several decisions, all or none."""

    decisions: list[DecisionIn]


class ByHandIn(Schema):
    """A line for them."""

    part: str
    alternate: str = "A"
    item: str = ""
    quantity: str = ""
    unit: str = ""
    issue_at: int | None = None
    reason: str = ""


class KeepIn(Schema):
    """A line of theirs to leave to them."""

    row: str
    reason: str = ""


class KnownAsIn(Schema):
    """What a part of ours is called over there; empty: as here."""

    part: str
    code: str = ""


class HandOverIn(Schema):
    """The change sheet that was read."""

    digest: str


def _shown(key: int, agreeing: bool = False) -> dict[str, Any]:
    handover = handover_named(key)
    (head,) = handover_heads([handover])
    compared = rows_of(handover, agreeing) if handover.state == "work" and handover.theirs is not None else None
    return {"head": head, "compared": compared, "written": handover.sheet if handover.state in ("done", "writing") else None}


@router.get("", response=HandoversOut)
def list_handovers(request: HttpRequest) -> Any:
    """The last two hundred handovers, the newest first."""
    rows = Handover.objects.select_related("top").defer("theirs", "sheet", "journal")[:200]
    records = [{"name": name, "words": service.words} for name, service in record_services().items()]
    return {"handovers": handover_heads(list(rows)), "records": records}


@router.post("", response=HandoverOut)
def begin(request: HttpRequest, payload: OpenHandoverIn) -> Any:
    """Begin with a product or with chosen sheets, or go on with the one that is open."""
    return handover_heads([open_handover(request.user, payload.record, payload.top, payload.beside)])[0]


@router.get("/items", response=list[TheirItem])
def find_items(request: HttpRequest, record: str, words: str = "") -> Any:
    """Items of theirs whose code or text holds these words."""
    if not words.strip():
        return []
    try:
        book = book_of(record)
        text = next((f.theirs for f in book.words.fields if f.table == "parts" and f.ours == "description"), "text")
        return [{"code": t.key, "text": str(t.body.get(text) or "")} for t in book.find(words.strip()[:100])]
    except CallFailed as error:
        raise TallyError(f"{record} could not be asked: {error}.") from None


@router.get("/{handover_id}", response=HandoverShown)
def read_handover(request: HttpRequest, handover_id: int, agreeing: bool = False) -> Any:
    """A handover with all that does not agree, or with all there is."""
    return _shown(handover_id, agreeing)


@router.get("/{handover_id}/who", response=WhoMoved)
def read_who(request: HttpRequest, handover_id: int, row: str, fields: str = "") -> Any:
    """Who set some fields of a row (their names, with commas between them), and who last wrote theirs."""
    return who_moved(handover_named(handover_id), row, [f for f in fields.split(",") if f])


@router.get("/{handover_id}/changes.{shape}")
def change_sheet_file(request: HttpRequest, handover_id: int, shape: str) -> HttpResponse:
    """The change sheet as ``xlsx`` or ``pdf``: as it is now, or as it was written."""
    handover = handover_named(handover_id)
    if handover.state == "work" and handover.theirs is None:
        raise TallyError("The other side was not read yet.")
    sheet = rows_of(handover)["sheet"] if handover.state == "work" else handover.sheet
    if sheet is None or shape not in ("xlsx", "pdf"):
        raise TallyError("There is no change sheet of this.")
    if shape == "pdf":
        made = HttpResponse(change_sheet_pdf(handover, sheet), content_type="application/pdf")
    else:
        made = HttpResponse(
            change_sheet_workbook(handover, sheet), content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
        )
    made["Content-Disposition"] = f'attachment; filename="{handover.number}.{shape}"'
    return made


@router.post("/{handover_id}/read", response=HandoverShown)
def read_anew(request: HttpRequest, handover_id: int) -> Any:
    """Have the other side read again."""
    read_again(request.user, handover_id)
    return _shown(handover_id)


@router.post("/{handover_id}/decisions", response=HandoverShown)
def take_decisions(request: HttpRequest, handover_id: int, payload: DecisionsIn) -> Any:
    """Decide whose state is to stand."""
    decide(request.user, handover_id, [Decided(d.row, d.field, d.choice, d.of) for d in payload.decisions])
    return _shown(handover_id)


@router.post("/{handover_id}/by-hand", response=HandoverShown)
def add_line_by_hand(request: HttpRequest, handover_id: int, payload: ByHandIn) -> Any:
    """Add a line that only they have."""
    by_hand.add_by_hand(request.user, handover_id, payload.part, payload.alternate, payload.dict())
    return _shown(handover_id)


@router.post("/{handover_id}/keep", response=HandoverShown)
def keep_line_by_hand(request: HttpRequest, handover_id: int, payload: KeepIn) -> Any:
    """Leave a line of theirs to them from now on."""
    by_hand.keep_by_hand(request.user, handover_id, payload.row, payload.reason)
    return _shown(handover_id)


@router.post("/{handover_id}/by-hand/{by_hand_id}/let-go", response=HandoverShown)
def let_line_go(request: HttpRequest, handover_id: int, by_hand_id: int) -> Any:
    """Keep a line by hand no longer."""
    by_hand.let_go_by_hand(request.user, handover_id, by_hand_id)
    return _shown(handover_id)


@router.put("/{handover_id}/known-as", response=HandoverShown)
def say_number(request: HttpRequest, handover_id: int, payload: KnownAsIn) -> Any:
    """Say by what number they know a part, and have them read again."""
    know_as(request.user, handover_id, payload.part, payload.code)
    return _shown(handover_id)


@router.post("/{handover_id}/hand-over", response=HandoverShown)
def write_it(request: HttpRequest, handover_id: int, payload: HandOverIn) -> Any:
    """Have the change sheet written that was read."""
    hand_over(request.user, handover_id, payload.digest)
    return _shown(handover_id)


@router.post("/{handover_id}/finish", response=HandoverShown)
def finish(request: HttpRequest, handover_id: int) -> Any:
    """Write the rest of what broke off."""
    finish_handover(request.user, handover_id)
    return _shown(handover_id)


@router.post("/{handover_id}/take-back", response=HandoverShown)
def take_back(request: HttpRequest, handover_id: int) -> Any:
    """Put back over there what was written before it broke off."""
    take_handover_back(request.user, handover_id)
    return _shown(handover_id)


@router.post("/{handover_id}/let-go", response=HandoverShown)
def let_go(request: HttpRequest, handover_id: int) -> Any:
    """End it without writing anything."""
    let_go_handover(request.user, handover_id)
    return _shown(handover_id)
