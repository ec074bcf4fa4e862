"""What is asked of a sender and what they answer, over HTTP."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from inquiries.actions.ask_sender import drop_question, take_answers
from inquiries.reads import questions_mail, questions_workbook
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from api.inquiries import InquiryOut, the_inquiry, whole

router = Router(tags=["inquiries"])


class QuestionMail(Schema):
    to: str
    subject: str
    body: str
    count: int


class Laid(Schema):
    """How many lines answers were laid on, and what could not be."""

    lines: int
    told: list[str]


@router.get("/{inquiry_id}/questions", response=QuestionMail)
def mail(request: HttpRequest, inquiry_id: int) -> Any:
    """The open questions as a mail to look at."""
    return questions_mail(the_inquiry(inquiry_id))


@router.get("/{inquiry_id}/questions.xlsx")
def workbook(request: HttpRequest, inquiry_id: int) -> HttpResponse:
    """The open questions as a workbook to be filled in."""
    inquiry = the_inquiry(inquiry_id)
    answer = HttpResponse(questions_workbook(inquiry), content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")
    answer["Content-Disposition"] = f'attachment; filename="questions {inquiry.number}.xlsx"'
    return answer


@router.post("/{inquiry_id}/questions/{question_id}/drop", response=InquiryOut)
def question_drop(request: HttpRequest, inquiry_id: int, question_id: int) -> Any:
    """Take a question back."""
    drop_question(request.user, inquiry_id, question_id)
    return whole(inquiry_id)


@router.post("/{inquiry_id}/answers", response=Laid)
def answers(request: HttpRequest, inquiry_id: int, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Lay the answers of a workbook that came back on their lines."""
    lines, told = take_answers(request.user, inquiry_id, file.name or "answers.xlsx", file.read())
    return Laid(lines=lines, told=told)
