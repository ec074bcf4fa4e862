"""Open a buy plan, change what it plans and within which limits, or take it away."""

from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from definition.models.parts import Part
from django.db import connection
from inquiries.models import Inquiry
from jobs.locks import BUYING
from partners.models import Partner
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import asked_before, held, writing

from buying.limits import Limits, limits_of
from buying.models import BarredSupplier, BuyPlan, PlanBuild
from buying.typed_number import typed_number

__all__ = ["change_plan", "drop_plan", "held_plan", "open_plan", "plan_changed", "plans_of_inquiry"]

_TEXTS = {"title": 200, "note": 5000}
_MOST_BUILDS = 60


def held_plan(plan_id: int, version: int | None) -> BuyPlan:
    """A plan, held until the caller's transaction ends, as somebody saw it. Raises MissingError and ProblemsError."""
    return held(BuyPlan.objects.filter(pk=plan_id), version, "This plan", "This plan is no longer there.")


def open_plan(user, fields: dict[str, Any], builds: list[dict[str, Any]], key: UUID | None = None) -> BuyPlan:
    """Open one. ``fields``: title, note, limits. ``builds``: part, options, quantity, by. ``key``: see :func:`asked_before`.

    Raises ProblemsError and Refused.
    """
    with writing(user, "buying"):
        plan = BuyPlan(opened_by=str(user), limits=Limits().kept(), asked_as=key)
        limits = _lay_on(plan, {"title": ""} | fields)
        rows = _builds(builds)
        _number(plan)
        if before := asked_before(BuyPlan.objects.all(), key):
            return before
        _save(plan, user)
        _bar(plan, limits, user)
        for row in rows:
            row.plan = plan
        PlanBuild.objects.bulk_create(rows)
        return plan


def _number(plan: BuyPlan) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [BUYING])
    last = BuyPlan.objects.filter(number__regex=r"^B[0-9]{4,9}$").order_by("-id").values_list("number", flat=True)
    plan.number = f"B{max((int(n[1:]) for n in last[:20]), default=1000) + 1:04d}"


def _save(plan: BuyPlan, user: Any) -> None:
    plan._history_user = user
    plan.save()


def plans_of_inquiry(user, inquiry_id: int) -> list[BuyPlan]:
    """A plan for each quantity that an inquiry asks for; those that stand for it already are left as they are.

    Raises MissingError, Refused, and ProblemsError where nothing that is built here is asked for in a quantity.
    """
    with writing(user, "buying"):
        inquiry = Inquiry.objects.select_for_update().filter(pk=inquiry_id).first()
        if inquiry is None:
            raise MissingError("This inquiry is no longer there.")
        builds = [(b, b.line.part) for b in inquiry.builds.select_related("line__part") if b.line.part]
        if not builds:
            raise ProblemsError(
                [Problem("", "say how many of which product are wanted, and make its list a build sheet; then it can be priced")]
            )
        there = {(b.part_id, b.quantity) for plan in inquiry.plans.all() for b in plan.builds.all()}
        made = []
        for build, part in builds:
            if (part.pk, build.quantity) in there:
                continue
            plan = BuyPlan(opened_by=str(user), limits=Limits(drafts=True).kept(), title=inquiry.title, inquiry=inquiry)
            _number(plan)
            _save(plan, user)
            PlanBuild.objects.create(plan=plan, part=part, quantity=build.quantity, by=build.wanted_by)
            made.append(plan)
        return made


def change_plan(user, plan_id: int, version: int | None, fields: dict[str, Any], builds: list[dict[str, Any]] | None = None) -> BuyPlan:
    """Change what is planned, from the version that somebody saw; builds replace those that stood there.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        plan = held_plan(plan_id, version)
        _bar(plan, _lay_on(plan, fields), user)
        if builds is not None:
            rows = _builds(builds)
            PlanBuild.objects.filter(plan=plan).delete()
            for row in rows:
                row.plan = plan
            PlanBuild.objects.bulk_create(rows)
        return plan_changed(plan, user)


def plan_changed(plan: BuyPlan, user) -> BuyPlan:
    """Save a plan that its caller holds and changed: it is behind until it is planned anew."""
    plan.version += 1
    _save(plan, user)
    return plan


def drop_plan(user, plan_id: int, version: int | None) -> None:
    """Take a plan away. Raises MissingError, ProblemsError and Refused."""
    with writing(user, "buying"):
        held_plan(plan_id, version).delete()


def _bar(plan: BuyPlan, limits: Limits | None, user: Any) -> None:
    """Have a plan use all suppliers but those; who and when stands in the history."""
    if limits is None:
        return
    there = {x.supplier_id: x for x in plan.barred.all()}
    for name in there.keys() - set(limits.barred):
        there[name]._history_user = user
        there[name].delete()
    for name in sorted(set(limits.barred) - there.keys()):
        row = BarredSupplier(plan=plan, supplier_id=name, barred_by=str(user))
        row._history_user = user
        row.save()


def _lay_on(plan: BuyPlan, fields: dict[str, Any]) -> Limits | None:
    """Lay what was typed on a plan; answers its limits where they were among it. Raises ProblemsError."""
    problems: list[Problem] = []
    limits = None
    for name, most in _TEXTS.items():
        if name in fields:
            text = " ".join(str(fields[name]).split()) if name == "title" else str(fields[name]).strip()
            if len(text) > most or "\x00" in text:
                problems.append(Problem(name, f"at most {most} characters"))
            elif name == "title" and not text:
                problems.append(Problem(name, "say in a few words what is bought for"))
            else:
                setattr(plan, name, text)
    if "limits" in fields:
        try:
            before = limits_of(plan) if plan.pk else Limits()
            limits = Limits.of(before.plain() | fields["limits"]).checked()
            plan.limits = limits.kept()
            known = set(Partner.objects.filter(name__in=[n for n in limits.barred if "\x00" not in n]).values_list("name", flat=True))
            problems += [Problem("barred", f"{n[:60]} is no supplier") for n in limits.barred if n not in known][:5]
        except ProblemsError as error:
            problems += error.problems
    if problems:
        raise ProblemsError(problems)
    return limits


def _builds(given: list[dict[str, Any]]) -> list[PlanBuild]:
    problems: list[Problem] = []
    rows = []
    parts = {p.number: p for p in Part.objects.filter(number__in=[str(b.get("part", "")) for b in given])}
    if not given:
        problems.append(Problem("builds", "say what is to be built"))
    if len(given) > _MOST_BUILDS:
        problems.append(Problem("builds", f"at most {_MOST_BUILDS} builds"))
    for at, build in enumerate(given[:_MOST_BUILDS]):
        part = parts.get(str(build.get("part", "")))
        if part is None or part.kind != "made":
            word = "is not known" if part is None else f"is {part.kind}; only made parts are built"
            problems.append(Problem(f"builds[{at}].part", f"{str(build.get('part', ''))[:64] or 'a part'} {word}"))
        quantity = typed_number(build.get("quantity")) or Decimal(0)
        if not 0 < quantity < 10**9:
            problems.append(Problem(f"builds[{at}].quantity", "how many are built, more than 0"))
        try:
            by = date.fromisoformat(build["by"]) if build.get("by") else None
        except ValueError:
            problems.append(Problem(f"builds[{at}].by", "a day as year-month-day"))
            continue
        rows.append(PlanBuild(part=part, options=list(build.get("options") or []), quantity=quantity, by=by))
    if problems:
        raise ProblemsError(problems)
    return rows
