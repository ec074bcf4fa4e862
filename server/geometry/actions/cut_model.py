"""Cut a model by a plane: the worker reads it once more, and the section is one of its views."""

from definition.models.parts import Part
from django.db import transaction
from django_tasks import task
from formats.step import read_step
from formats.step_section import CUT_FROM
from jobs.work import Tell, ask_for, carry_out
from tally_core.basics.errors import Problem, ProblemsError, TallyError

from geometry.actions.take_model import files_of, section_rows
from geometry.models import SECTION, ModelFile, PartView, section_key
from geometry.reads import newest_model

__all__ = ["CUTTING", "cut_model"]

CUTTING = "section"
_MOST = 12


def cut_model(user: object, part: Part, side: str, depth: float) -> None:
    """Have the newest model of a part cut, within the caller's transaction; nothing where that section is held already.

    Raises ProblemsError for no section, TallyError where there are too many, or one is being cut.
    """
    if side not in CUT_FROM or not 0 < depth < 1e5:
        raise ProblemsError(
            [Problem("depth", "A section is seen from one of the six sides, and lies behind the foremost point of the model.")]
        )
    model = newest_model(part)
    if model is None:
        raise TallyError(f"{part.number} has no model yet.")
    held = PartView.objects.filter(model=model, direction__startswith=SECTION)
    if held.filter(direction=section_key(side, depth)).exists():
        return
    if held.count() >= _MOST:
        raise TallyError(f"A model is cut at most {_MOST} times; take a section away first.")
    job = ask_for(CUTTING, part.pk, f"cutting {part.number} from the {side} at {depth:g} mm", str(user))
    transaction.on_commit(lambda: cut.enqueue(model.pk, side, depth, job.pk))


@task()
def cut(model_id: int, side: str, depth: float, job_id: int) -> None:
    """Cut a kept model; where the plane meets nothing, that is said on the job."""

    def work(tell: Tell) -> None:
        model = ModelFile.objects.select_related("file").get(pk=model_id)
        tell("reading it once more, and cutting what the plane meets", 1, 1)
        rows = section_rows(model, read_step(files_of(model), sections=[(side, depth)]))
        if not rows:
            raise TallyError(f"Nothing of the model lies behind {depth:g} mm from the {side}.")
        with transaction.atomic():
            PartView.objects.filter(model=model, direction=rows[0].direction).delete()
            PartView.objects.bulk_create(rows)

    carry_out(job_id, work)
