"""Put something to the sender, and lay their answers on the lines."""

from typing import Any

from accounts.access import require
from django.utils.timezone import now
from formats.apart import read_tables
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.inquiries.line import FIELDS, mended_value
from tally_core.lists.cells import text_of
from verbs.contract import writing

from inquiries.deciding import Step, keep
from inquiries.lines import counting, held_inquiry, written
from inquiries.models import ListLine, Question

__all__ = ["ask_sender", "drop_question", "take_answers"]


def ask_sender(user, inquiry_id: int, line_id: int, about: str, field: str, text: str) -> Question:
    """Note a question about a line. ``about`` is the code of a finding or ``free``; an answer is laid on ``field``, where it is given.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        line = counting(inquiry).filter(pk=line_id).first()
        if line is None:
            raise MissingError("This line is no longer there.")
        text = text.strip()
        if not text or len(text) > 1000 or "\x00" in text:
            raise ProblemsError([Problem("text", "say in a sentence what is asked")])
        if field and field not in FIELDS:
            raise ProblemsError([Problem("field", "is no field of a line")])
        question = Question.objects.filter(line=line, about=about, answered_at=None).exclude(about="free").first()
        question = question or Question(line=line, about=about[:30])
        question.field, question.text, question.asked_by = field, text, str(user)
        question.save()
        written(inquiry, [line], [])
        return question


def drop_question(user, inquiry_id: int, question_id: int) -> None:
    """Take a question back that was not answered. Raises TallyError, MissingError and Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        question = Question.objects.filter(pk=question_id, line__inquiry=inquiry).select_related("line").first()
        if question is None:
            raise MissingError("This question is no longer there.")
        if question.answered_at is not None:
            raise TallyError("It was answered; its answer stays.")
        line = question.line
        question.delete()
        written(inquiry, [line], [])


def take_answers(user, inquiry_id: int, name: str, content: bytes) -> tuple[int, list[str]]:
    """Lay the answers of a workbook of questions that came back on their lines, as one step that can be taken back.

    Answers how many were laid, and in words what could not be. Raises TallyError for a file without answers, and Refused.
    """
    require(user, "inquiries")
    tables = [t for t in read_tables(name, content) if t.rows]
    answers = _answers(tables[0].rows if tables else [])
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        questions = {
            q.pk: q for q in Question.objects.filter(line__inquiry=inquiry, pk__in=answers).select_related("line__part", "line__file")
        }
        told: list[str] = []
        mended: dict[int, dict[str, Any]] = {}
        lines: dict[int, ListLine] = {}
        for key, text in answers.items():
            question = questions.get(key)
            if question is None:
                told.append(f"question {key} is none of this inquiry")
                continue
            if question.answer == text:
                continue
            question.answer, question.answered_at, question.laid_by = text[:2000], now(), str(user)
            question.save()
            line = lines.setdefault(question.line_id, question.line)
            if question.field:
                try:
                    value = mended_value(question.field, text)
                except ValueError as error:
                    told.append(f"row {line.row}: {FIELDS[question.field]}: {error}; read the answer and type it")
                    continue
                mended.setdefault(line.pk, dict(line.mended))[question.field] = value
        steps = [Step(lines[key], "answer", {"mended": value}, "answer of the sender") for key, value in mended.items()]
        if steps:
            keep(inquiry, steps, user)
        written(inquiry, [x for key, x in lines.items() if key not in mended], [])
        return len(lines), told


def _answers(rows: list[list[Any]]) -> dict[int, str]:
    header = next((i for i, r in enumerate(rows[:30]) if {"question no.", "answer"} <= {text_of(c).strip().casefold() for c in r}), None)
    if header is None:
        raise TallyError("The file has no columns “question no.” and “answer”; bring in the workbook of questions as it came back.")
    titles = [text_of(c).strip().casefold() for c in rows[header]]
    at, answer = titles.index("question no."), titles.index("answer")
    found: dict[int, str] = {}
    for row in rows[header + 1 :]:
        key = text_of(row[at]).strip() if at < len(row) else ""
        text = text_of(row[answer]).strip() if answer < len(row) else ""
        if key.isdecimal() and len(key) < 12 and text:
            found[int(key)] = text
    if not found:
        raise TallyError("No question in the file has an answer yet.")
    return found
