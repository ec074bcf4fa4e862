"""Plan how some builds are cut: the worker finds out, and what it found is kept."""

from collections.abc import Sequence
from decimal import Decimal
from itertools import groupby
from typing import Any

from django.db import connection, transaction
from django.utils.timezone import localdate
from django_tasks import task
from jobs.locks import CUTTING
from jobs.work import Tell, ask_for, carry_out, let_go
from readings.matrix import Build
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.cost.answers import Basis
from tally_core.stated.reading import RecordReader
from verbs.contract import writing

from cutting.models import CutPlan
from cutting.pieces import cut_lines
from cutting.planned import FORMAT, cut_material, sizes_of
from cutting.states import require_now

__all__ = ["KIND", "drop_plan", "held_plan", "plan_cuts", "plan_now"]

KIND = "cut plan"
_MOST_BUILDS = 40
#: Seconds for one material; after them the best that was found stands, and its bound says how good that is.
_SECONDS = 20.0


def plan_cuts(user: Any, builds: Sequence[Build], kerf: str, keep: str, drafts: bool) -> CutPlan:
    """Ask for a plan. Raises ProblemsError naming the field, and Refused."""
    with writing(user, "cutting"):
        reader = RecordReader()
        sizes = {name: reader.decimal(text, name) for name, text in (("kerf_mm", kerf), ("keep_mm", keep))}
        problems = list(reader.problems)
        for name, size in sizes.items():
            if size is not None and not (0 <= size <= 5000 and size == round(size, 3)):
                problems.append(Problem(name, "a size in millimetres from 0 to 5000"))
        if not 0 < len(builds) <= _MOST_BUILDS:
            problems.append(Problem("builds", f"a plan is for 1 to {_MOST_BUILDS} builds"))
        if problems:
            raise ProblemsError(problems)
        day = localdate()
        if not cut_lines(builds, Basis(day, None, (), drafts)):
            names = ", ".join(b.part for b in builds)
            raise TallyError(f"No line of {names} says what is cut; state it on the line of the bar or the board: 12 × 200.")
        plan = CutPlan.objects.create(
            number=_next(),
            kerf_mm=sizes["kerf_mm"],
            keep_mm=sizes["keep_mm"],
            day=day,
            made_by=str(user),
            builds=[{"part": b.part, "options": list(b.options), "quantity": str(b.quantity), "drafts": drafts} for b in builds],
        )
        _ask(plan, str(user))
        return plan


def plan_now(user: Any, plan_id: int) -> CutPlan:
    """Have a plan that was not cut made anew, by sheets, sizes and leftovers as they are now. Raises TallyError, and Refused."""
    with writing(user, "cutting"):
        plan = held_plan(plan_id)
        _ask(plan, str(user))
        return plan


def drop_plan(user: Any, plan_id: int) -> None:
    """Let a plan go that was not cut. Raises TallyError, and Refused."""
    with writing(user, "cutting"):
        plan = held_plan(plan_id)
        let_go(KIND, plan.pk, "The plan was let go.")
        plan.delete()


def held_plan(plan_id: int) -> CutPlan:
    """A plan that was not cut yet, locked. Raises MissingError, and ProblemsError for one that was."""
    plan = CutPlan.objects.select_for_update().filter(pk=plan_id).first()
    if plan is None:
        raise MissingError("This plan is no longer there.")
    require_now(plan, "change")
    return plan


def _next() -> str:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s, 1)", [CUTTING])
    numbers = CutPlan.objects.order_by("-id").values_list("number", flat=True)[:1]
    return f"C-{max((int(n[2:]) for n in numbers), default=0) + 1}"


def _ask(plan: CutPlan, by: str) -> None:
    job = ask_for(KIND, plan.pk, f"cutting {plan.number}", by)
    key, job_id = plan.pk, job.pk
    transaction.on_commit(lambda: make_plan.enqueue(key, job_id))


@task(queue_name="long", priority=10)
def make_plan(plan_id: int, job_id: int) -> None:
    """Find out how it is cut, material by material."""

    def work(tell: Tell) -> None:
        plan = CutPlan.objects.get(pk=plan_id)
        builds = [Build(b["part"], tuple(b["options"]), Decimal(b["quantity"])) for b in plan.builds]
        tell("gathering what is cut")
        lines = cut_lines(builds, Basis(plan.day, None, (), bool(plan.builds[0]["drafts"])))
        sizes = sizes_of(list({x.material.pk: x.material for x in lines}.values()))
        materials = [list(group) for _, group in groupby(lines, key=lambda x: x.material.pk)]
        made = []
        for at, group in enumerate(materials, 1):
            tell(f"cutting {group[0].material.number}", at, len(materials))
            made.append(cut_material(sizes[group[0].material.pk], group, plan.kerf_mm, plan.keep_mm, _SECONDS))
        with transaction.atomic():
            plan = held_plan(plan_id)
            plan.said = {"format": FORMAT, "materials": made}
            plan.state = "made"
            plan.save(update_fields=["said", "state"])

    carry_out(job_id, work)
