"""Say by what number the other side knows a part of ours; it is read again under it."""

from definition.models.parts import Part
from jobs.work import ask_for
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from verbs.contract import writing

from handover.actions.read_again import KIND, open_one, run_read
from handover.models import Handover, KnownAs

__all__ = ["know_as"]


def know_as(user, handover_id: int, number: str, code: str) -> None:
    """Keep what a part is called over there, from now on in every handover to that record; an empty ``code``, or its own number: as here.

    Raises ProblemsError for what is no number or is another part's, MissingError, TallyError while something is written there, and Refused.
    """
    with writing(user, "handover"):
        handover = open_one(handover_id)
        code = " ".join(code.split())
        part = Part.objects.filter(number=number).first()
        if part is None:
            raise MissingError(f"Part {number} is not known.")
        if len(code) > 64 or not code.isprintable() or "|" in code:
            raise ProblemsError([Problem("code", "a number has at most 64 characters, none of them a bar")])
        other = KnownAs.objects.select_related("part").filter(record=handover.record, code=code).exclude(part=part).first()
        if other is not None:
            raise ProblemsError([Problem("code", f"{code} is what {other.part.number} is called over there already")])
        if writes := Handover.objects.filter(record=handover.record, state="writing").first():
            raise TallyError(f"{writes.number} is being written, or broke off in the middle; finish it or take it back first.")
        if code in ("", number):
            KnownAs.objects.filter(record=handover.record, part=part).delete()
        else:
            KnownAs.objects.update_or_create(record=handover.record, part=part, defaults={"code": code, "by": str(user)})
        handover.version += 1
        handover.tell(str(user), f"{number} is called {code or 'as here'} over there")
        handover.save()
        job = ask_for(KIND, handover.pk, f"reading {handover.record} for {handover.number}", str(user))
    run_read.enqueue(handover_id, job.pk)
