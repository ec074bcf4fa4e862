"""Cut a model by a plane: the worker reads it once more, and the section is one of its views."""

from collections.abc import Sequence

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


def cut_model(user: object, part: Part, sections: Sequence[tuple[str, float]]) -> None:
    """Have the newest model of a part cut, within the caller's transaction; nothing where all sections are held already.

    Raises ProblemsError for what is no section, TallyError where there are too many, or one is being cut.
    """
    if any(side not in CUT_FROM or not 0 < depth < 1e5 for side, depth in sections):
        raise ProblemsError(
            [Problem("depth", "A section is seen from one of the six sides, and lies behind the foremost point of the model.")]
        )
    model = newest_model(part)
    if model is None:
        raise TallyError(f"{part.number} has no model yet.")
    held = PartView.objects.filter(model=model, direction__startswith=SECTION)
    there = set(held.values_list("direction", flat=True))
    lacking = [at for key, at in {section_key(*at): at for at in sections}.items() if key not in there]
    if not lacking:
        return
    if len(there) + len(lacking) > _MOST:
        raise TallyError(f"A model is cut at most {_MOST} times; take a section away first.")
    words = ", ".join(f"from the {side} at {depth:g} mm" for side, depth in lacking)
    job = ask_for(CUTTING, part.pk, f"cutting {part.number} {words}", str(user))
    transaction.on_commit(lambda: cut.enqueue(model.pk, lacking, job.pk))


@task(queue_name="models")
def cut(model_id: int, sections: list[tuple[str, float]], job_id: int) -> None:
    """Cut a kept model; where the plane meets nothing, that is said on the job."""

    def work(tell: Tell) -> None:
        model = ModelFile.objects.select_related("file").get(pk=model_id)
        tell("reading it once more, and cutting what the plane meets", 1, 1)
        rows = section_rows(model, read_step(files_of(model), sections=sections))
        with transaction.atomic():
            PartView.objects.filter(model=model, direction__in=[r.direction for r in rows]).delete()
            PartView.objects.bulk_create(rows)
        found = {r.direction for r in rows}
        if empty := [f"{depth:g} mm from the {side}" for side, depth in sections if section_key(side, depth) not in found]:
            raise TallyError(f"Nothing of the model lies behind {', '.join(empty)}.")

    carry_out(job_id, work)
