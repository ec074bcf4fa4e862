"""Work centers over HTTP."""

from datetime import date
from typing import Any

import holidays
from definition.as_shown import plain_value
from definition.models.parts import Workspace
from definition.models.sheets import Operation
from definition.models.work_centers import WorkCenter
from django.db.models import Count
from django.http import HttpRequest
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from ninja import Router, Schema
from readings.center_load import PlannedBuild, center_load
from readings.survey import revision_words
from shop.order_work import order_work
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.stated import definition as core
from verbs.work_centers.save_closed_days import save_closed_days
from verbs.work_centers.save_work_center import save_work_center

from api.of_records import answered, typed_in

router = Router(tags=["work centers"])


class RateOut(typed_in(core.RateChange, "first_day")):  # type: ignore[misc]
    """Rates that hold from a day on; none stays as it was before."""

    first_day: str


class StopOut(Schema):
    """A planned stop, from a moment up to another by the shop's clock; ISO 8601 without a zone."""

    start: str
    end: str
    reason: str = ""


class WorkCenterOut(answered(core.WorkCenter, "rates", "stops")):  # type: ignore[misc]
    """A work center. Rates are decimal text, in currency per hour."""

    id: int
    rates: list[RateOut]
    stops: list[StopOut]
    version: int
    operations: int


class WorkCenterIn(typed_in(core.WorkCenter, "rates", "stops")):  # type: ignore[misc]
    """What was typed. A field left out stays as it is."""

    rates: list[RateOut] | None = None
    stops: list[StopOut] | None = None
    version: int | None = None


def _out(center: WorkCenter, operations: int) -> WorkCenterOut:
    plain = {n: plain_value(getattr(center, n)) for n in core.WorkCenter.__dataclass_fields__}
    return WorkCenterOut(**plain, id=center.pk, version=center.version, operations=operations)


@router.get("", response=list[WorkCenterOut])
def list_work_centers(request: HttpRequest) -> list[WorkCenterOut]:
    """All work centers by code, with how many operations are done at each."""
    return [_out(c, c.n) for c in WorkCenter.objects.annotate(n=Count("operations")).order_by("code")]


class CenterUse(Schema):
    """An operation done at a work center, on a sheet that is not retired: what a change of its rates would touch."""

    part: str
    description: str
    sheet: int
    revision: str
    status: str
    sequence: int
    name: str


@router.get("/one/uses", response=list[CenterUse])
def read_uses(request: HttpRequest, code: str) -> Any:
    """The operations done at a work center, at most a thousand."""
    found = (
        Operation.objects.filter(work_center__code=code)
        .exclude(sheet__status="retired")
        .select_related("sheet__part")
        .order_by("sheet__part__number", "sheet__alternate", "-sheet_id", "sequence")[:1000]
    )
    return [
        {
            "part": o.sheet.part.number,
            "description": o.sheet.part.description,
            "sheet": o.sheet_id,
            "revision": revision_words(o.sheet.alternate, o.sheet.revision),
            "status": o.sheet.status,
            "sequence": o.sequence,
            "name": o.name,
        }
        for o in found
    ]


class ClosedDays(Schema):
    """Days on which no work center works; ISO 8601, ascending."""

    days: list[date]


class PublicHoliday(Schema):
    day: date
    name: str


@router.get("/closed-days", response=ClosedDays)
def read_closed_days(request: HttpRequest) -> Any:
    """The days on which nobody works."""
    return {"days": Workspace.the().closed_days}


@router.post("/closed-days", response=ClosedDays)
def keep_closed_days(request: HttpRequest, payload: ClosedDays) -> Any:
    """Replace the days on which nobody works."""
    return {"days": save_closed_days(request.user, payload.days).closed_days}


@router.get("/public-holidays", response=list[PublicHoliday])
def read_public_holidays(request: HttpRequest, country: str, year: int) -> Any:
    """The public holidays of a country (ISO 3166 code) in a year, to choose closed days from."""
    if not 1990 <= year <= 2100:
        raise TallyError("Public holidays are known from 1990 to 2100.")
    try:
        found = holidays.country_holidays(country.upper()[:2], years=year, language="en_US")
    except NotImplementedError:
        raise TallyError(f"The holidays of {country[:20]} are not known; use a country's two letters, like NL.") from None
    return [{"day": day, "name": name} for day, name in sorted(found.items())]


class LoadBuild(Schema):
    """So many of a part with some options, wanted at the end of a day; begun on the day of the load when none is given."""

    part: str
    quantity: str = ""
    options: list[str] = []
    wanted: str = ""


class LoadIn(Schema):
    """``orders``: what is still to be done on released work orders counts, too."""

    builds: list[LoadBuild]
    day: str = ""
    drafts: bool = False
    orders: bool = False


class CenterLoad(Schema):
    """Hours by week; ``over`` counts the weeks that ask for more than there is."""

    code: str
    name: str
    group: str
    stations: int
    load: list[float]
    capacity: list[float]
    over: int


class LoadSource(Schema):
    """Where hours come from: an operation of a build, of which ``build`` is the index, or of a work order. ``any_of``: the group of which
    any work center could do it."""

    build: int | None
    order: str
    center: str
    week: str
    part: str
    sequence: int
    name: str
    any_of: str
    hours: float


class LoadOut(Schema):
    """Weeks by their Monday."""

    weeks: list[str]
    today: str
    centers: list[CenterLoad]
    sources: list[LoadSource]


@router.post("/load", response=LoadOut)
@long_work
def read_load(request: HttpRequest, payload: LoadIn) -> Any:
    """What a set of builds, and released orders with them, ask of every work center by week. Saves nothing."""
    builds = []
    for index, build in enumerate(payload.builds):
        try:
            basis = read_basis(BasisIn(day=payload.day, quantity=build.quantity, options=",".join(build.options), drafts=payload.drafts))
            wanted = date.fromisoformat(build.wanted) if build.wanted else None
        except ProblemsError as error:
            raise ProblemsError([Problem(f"builds[{index}].{p.place}", p.message) for p in error.problems]) from None
        except ValueError:
            raise ProblemsError([Problem(f"builds[{index}].wanted", "a day like 2026-01-31 is needed")]) from None
        builds.append(PlannedBuild(build.part, basis, wanted))
    return center_load(builds, order_work() if payload.orders else ())


def _typed(payload: WorkCenterIn) -> dict:
    return {n: v for n, v in payload.dict(exclude_unset=True).items() if n != "version"}


@router.post("", response=WorkCenterOut)
def make_work_center(request: HttpRequest, payload: WorkCenterIn) -> WorkCenterOut:
    """Make a work center."""
    return _out(save_work_center(request.user, _typed(payload)), 0)


@router.patch("/one", response=WorkCenterOut)
def change_work_center(request: HttpRequest, code: str, payload: WorkCenterIn) -> WorkCenterOut:
    """Change a work center."""
    center = save_work_center(request.user, _typed(payload), code, payload.version)
    return _out(center, center.operations.count())
