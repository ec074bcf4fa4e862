"""What an inquiry becomes, over HTTP: looked at before, then saved whole."""

from typing import Any

from django.http import HttpRequest
from inquiries.actions.save_result import save_result
from inquiries.result import make_result
from jobs.long_work import long_work
from ninja import Router, Schema
from tally_core.lists.titles import OWN

from api.inquiries import InquiryOut, the_inquiry, whole

router = Router(tags=["inquiries"])

_WORDS = {"supplier_number": "supplier's number", "supplier_link": "link"}


class PlannedLineOut(Schema):
    verb: str
    part: str
    words: str
    line: int | None


#: So many lines of a sheet are shown; what it takes beyond is counted.
_SHOWN = 40


class PlannedSheetOut(Schema):
    """A sheet as it will be: ``count`` lines, the first of them listed."""

    part: str
    description: str
    revision: str
    stands: bool
    top: bool
    new: bool
    turns_made: bool
    count: int
    lines: list[PlannedLineOut]


class ResultProblem(Schema):
    line: int
    words: str


class FilledField(Schema):
    """A field in which a part says nothing so far, in words, and what a list says there."""

    part: str
    field: str
    text: str


class ResultOut(Schema):
    """What the inquiry will become, which parts get what they lack, and what keeps it from that."""

    seal: str
    sheets: list[PlannedSheetOut]
    filled: list[FilledField]
    problems: list[ResultProblem]


class ResultSeen(Schema):
    """The seal of the plan that was seen; without one, what is planned by now is carried out."""

    seal: str | None = None


@router.get("/{inquiry_id}/result", response=ResultOut)
@long_work
def result(request: HttpRequest, inquiry_id: int) -> Any:
    """What the inquiry will become. Saves nothing."""
    made = make_result(the_inquiry(inquiry_id))
    return ResultOut(
        seal=made.seal(),
        sheets=[
            PlannedSheetOut(
                part=s.part.number,
                description=s.part.description,
                revision=s.revision,
                stands=s.stands,
                top=s.top,
                new=s.newest is None,
                turns_made=s.turns_made,
                count=len(s.lines),
                lines=[
                    PlannedLineOut(verb=x.verb, part=x.part, words=x.words(), line=x.source.pk if x.source else None)
                    for x in s.lines[:_SHOWN]
                ],
            )
            for s in made.sheets
        ],
        filled=[
            FilledField(part=part, field=_WORDS.get(name, name.removeprefix(OWN).replace("_", " ")), text=text)
            for part, of in made.filled.items()
            for name, text in of.items()
        ],
        problems=[ResultProblem(line=key, words=words) for key, words in made.problems],
    )


@router.post("/{inquiry_id}/result", response=InquiryOut)
@long_work
def result_save(request: HttpRequest, inquiry_id: int, body: ResultSeen) -> Any:
    """Turn the inquiry into sheets, all of them or none."""
    save_result(request.user, inquiry_id, body.seal)
    return whole(inquiry_id)
