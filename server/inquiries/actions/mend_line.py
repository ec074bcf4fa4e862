"""Set right what a line says, the sender's own text staying beside it; or let a finding stand, with a reason."""

from typing import Any

from django.utils.timezone import now
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.checks.finding import LOOK
from tally_core.inquiries.line import FIELDS, mended_value
from verbs.contract import writing

from inquiries.deciding import Step, keep
from inquiries.lines import counting, held_inquiry, written
from inquiries.models import Inquiry, ListLine
from inquiries.pairing import pair

__all__ = ["mend_line", "waive_on_line"]


def _line(inquiry: Inquiry, line_id: int, seen: int) -> ListLine:
    line = counting(inquiry).select_related("part").filter(pk=line_id).first()
    if line is None:
        raise MissingError("This line is no longer there.")
    if line.stamp > seen:
        raise TallyError("Somebody else changed this line just now; look at it again and repeat it.")
    return line


def mend_line(user, inquiry_id: int, line_id: int, seen: int, field: str, text: str | None) -> ListLine:
    """Type what a field of a line is to say; None takes the sender's own word again.

    Raises ProblemsError for what the field cannot hold, TallyError where somebody else was faster, and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        line = _line(inquiry, line_id, seen)
        if field not in FIELDS:
            raise ProblemsError([Problem("field", "is no field of a line")])
        mended: dict[str, Any] = {n: v for n, v in line.mended.items() if n != field}
        if text is not None:
            try:
                value = mended_value(field, text)
            except ValueError as error:
                raise ProblemsError([Problem(field, str(error))]) from None
            if value != line.said.get(field):
                mended[field] = value
        if mended != line.mended:
            keep(inquiry, [Step(line, "mend", {"mended": mended}, FIELDS[field])], user)
            if field in ("part", "maker", "maker_number", "description"):
                written(inquiry, pair(inquiry, [line]), ["proposals"])
        line.refresh_from_db()
        return line


def waive_on_line(user, inquiry_id: int, line_id: int, seen: int, code: str, reason: str | None) -> ListLine:
    """Let a finding to look at stand, with a reason; None takes that back.

    Raises ProblemsError without a reason, TallyError for what is not found or stops, and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        line = _line(inquiry, line_id, seen)
        waived = {c: w for c, w in line.waived.items() if c != code}
        if reason is not None:
            if not reason.strip() or "\x00" in reason or len(reason) > 1000:
                raise ProblemsError([Problem("reason", "say in a line why it may stand")])
            found = next((f for f in line.findings if f["code"] == code), None)
            if found is None:
                raise TallyError("This is no longer found on the line.")
            if found["severity"] != LOOK:
                raise TallyError("This stops; it cannot be waived, only mended.")
            waived[code] = {"reason": reason.strip(), "by": str(user), "at": now().isoformat(), "of": found["message"]}
        if waived != line.waived:
            keep(inquiry, [Step(line, "waive", {"waived": waived}, code)], user)
        line.refresh_from_db()
        return line
