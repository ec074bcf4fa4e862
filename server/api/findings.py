"""Findings over HTTP: of one product now, of all sheets when they were last looked through, and waivers."""

from typing import Any

from accounts.access import sees_costs
from definition.models.sheets import BuildSheet
from django.db.models import Count
from django.http import HttpRequest
from findings.actions.check_everything import KIND, ask_for_check
from findings.actions.waive import take_back_waiver, waive
from findings.models import Finding, Survey, Waiver
from findings.reads import found_beneath, plain_findings
from jobs.work import job_state, last_job
from ninja import Query, Router, Schema
from readings.found_parts import found_parts
from readings.survey import revision_words
from tally_core.basics.errors import MissingError

from api.jobs import JobOut, job_out

router = Router(tags=["findings"])


class Waived(Schema):
    reason: str
    by: str
    at: str


class FindingOut(Schema):
    """A finding; ``sheet`` and ``line`` lead to its place. Waived ones keep their waiver."""

    code: str
    severity: str
    part: str
    revision: str
    item: int | None
    message: str
    mend: str
    key: str
    sheet: int | None
    line: str | None
    waived: Waived | None


class SurveyOut(Schema):
    """When all sheets were last looked through, the look that goes on, and why the last one was not finished."""

    finished_at: str | None
    asked_by: str
    lines: int
    job: JobOut | None
    failed: str
    codes: dict[str, int]
    stops: int
    looks: int


class FindingPage(Schema):
    total: int
    offset: int
    items: list[FindingOut]


class WaiverIn(Schema):
    key: str
    reason: str = ""


@router.get("/product/{sheet_id}", response=list[FindingOut])
def of_product(request: HttpRequest, sheet_id: int) -> Any:
    """What is found now on a sheet and on everything below it; other drafts of the same part are left out."""
    sheet = BuildSheet.objects.filter(pk=sheet_id).first()
    if sheet is None:
        raise MissingError("This sheet is no longer there.")
    found = found_beneath(sheet.part_id)
    return plain_findings([f for f in found if f["part_id"] != sheet.part_id or f["sheet_id"] in (None, sheet_id)])


def _last() -> Survey | None:
    return Survey.objects.order_by("-id").first()


@router.get("/survey", response=SurveyOut)
def read_survey(request: HttpRequest) -> Any:
    """The state of the last look through all sheets."""
    job = job_state(last_job(KIND))
    last = _last()
    counts: dict[str, int] = {}
    severities: dict[str, int] = {}
    if last is not None:
        found = Finding.objects.filter(survey=last).values_list("code", "severity").annotate(n=Count("id"))
        for code, severity, n in found:
            counts[code] = counts.get(code, 0) + n
            severities[severity] = severities.get(severity, 0) + n
    return SurveyOut(
        finished_at=last.finished_at.isoformat() if last else None,
        asked_by=last.asked_by if last else "",
        lines=last.lines if last else 0,
        job=job_out(job),
        failed=job.failed,
        codes=counts,
        stops=severities.get("stops", 0),
        looks=severities.get("look", 0),
    )


@router.get("", response=FindingPage)
def list_findings(
    request: HttpRequest,
    code: str = "",
    search: str = "",
    waived: bool = False,
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> Any:
    """A window of what the last look found; those that stop first. Waived ones only when asked for."""
    last = _last()
    if last is None:
        return FindingPage(total=0, offset=offset, items=[])
    rows = Finding.objects.filter(survey=last).select_related("part", "sheet")
    if code:
        rows = rows.filter(code=code)
    if search.strip():
        rows = rows.filter(part__in=found_parts(search, sees_costs(request.user)))
    if not waived:
        rows = rows.exclude(key__in=Waiver.objects.values("key"))
    total = rows.count()
    page = rows.order_by("-severity", "code", "part__number", "item", "id")[offset : offset + limit]
    found = [
        {n: getattr(f, n) for n in ("code", "severity", "item", "message", "mend", "key", "sheet_id", "line")}
        | {"part": f.part.number, "revision": revision_words(f.sheet.alternate, f.sheet.revision) if f.sheet else ""}
        for f in page
    ]
    return FindingPage(total=total, offset=offset, items=[FindingOut(**f) for f in plain_findings(found)])


@router.post("/survey", response=SurveyOut)
def ask(request: HttpRequest) -> Any:
    """Have all sheets looked through."""
    ask_for_check(request.user)
    return read_survey(request)


@router.post("/waivers", response=Waived)
def make_waiver(request: HttpRequest, payload: WaiverIn) -> Any:
    """Waive a finding with a reason."""
    held = waive(request.user, payload.key, payload.reason)
    return Waived(reason=held.reason, by=held.waived_by, at=held.waived_at.isoformat())


@router.post("/waivers/back")
def unmake_waiver(request: HttpRequest, payload: WaiverIn) -> dict[str, bool]:
    """Take a waiver back."""
    take_back_waiver(request.user, payload.key)
    return {"taken_back": True}
