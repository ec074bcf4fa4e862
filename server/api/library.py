"""The library of standard operations over HTTP."""

from typing import Any

from definition.as_shown import operation_values, work_values
from definition.models.sheets import BuildSheet, Operation
from definition.models.work_centers import StandardOperation
from django.db.models import Count, F, Q
from django.http import HttpRequest
from ninja import Router, Schema
from readings.survey import revision_words
from tally_core.basics.errors import TallyError
from verbs.sheets.refresh_operations import behind, refresh_operations
from verbs.work_centers.drop_standard import drop_standard
from verbs.work_centers.save_standard import save_standard

router = Router(tags=["library"])


class StandardOut(Schema):
    """An entry of the library; ``values`` are the fields of an operation as the sheet screen holds them."""

    code: str
    version: int
    work_center_name: str
    values: dict[str, Any]
    # Operations on sheets that are not retired, and how many of them were taken from an earlier version.
    uses: int
    behind: int


class StandardIn(Schema):
    """What was typed; values not given stay."""

    code: str
    values: dict[str, Any]
    version: int | None = None


class StandardUse(Schema):
    """An operation that follows an entry; ``differs`` names the fields in which it is not what the entry states now."""

    part: str
    description: str
    sheet: int
    sheet_version: int
    revision: str
    status: str
    sequence: int
    standard_version: int | None
    behind: bool
    differs: list[str]


class RefreshIn(Schema):
    """Drafts by key → the version they were looked at in."""

    sheets: dict[int, int]


class Counted(Schema):
    count: int


class RoutingOperation(Schema):
    """An operation of a routing as it would be copied, with what it is shown by."""

    values: dict[str, Any]
    work_center_name: str


class Routing(Schema):
    """The operations of one sheet of a part."""

    sheet: int
    revision: str
    status: str
    operations: list[RoutingOperation]


def _entries() -> Any:
    live = ~Q(operations__sheet__status="retired") & Q(operations__isnull=False)
    # Counting drops the order of the model.
    return (
        StandardOperation.objects.select_related("work_center")
        .prefetch_related("shown")
        .order_by("code")
        .annotate(
            uses=Count("operations", filter=live), behind=Count("operations", filter=live & ~Q(operations__standard_version=F("version")))
        )
    )


def _out(row: Any) -> StandardOut:
    center = row.work_center.name or row.work_center.code if row.work_center else ""
    return StandardOut(
        code=row.code, version=row.version, work_center_name=center, values=work_values(row), uses=row.uses, behind=row.behind
    )


@router.get("", response=list[StandardOut])
def list_standards(request: HttpRequest) -> Any:
    """The whole library by code."""
    return [_out(row) for row in _entries()]


@router.post("", response=StandardOut)
def make_standard(request: HttpRequest, payload: StandardIn) -> Any:
    """Make an entry."""
    row = save_standard(request.user, payload.code, payload.values)
    return _out(_entries().get(pk=row.pk))


@router.patch("/one", response=StandardOut)
def change_standard(request: HttpRequest, code: str, payload: StandardIn) -> Any:
    """Change an entry."""
    row = save_standard(request.user, payload.code, payload.values, code, payload.version)
    return _out(_entries().get(pk=row.pk))


@router.post("/one/drop", response=Counted)
def drop(request: HttpRequest, code: str) -> Any:
    """Take an entry out."""
    drop_standard(request.user, code)
    return {"count": StandardOperation.objects.count()}


@router.get("/one/uses", response=list[StandardUse])
def read_uses(request: HttpRequest, code: str) -> Any:
    """The operations that follow an entry, at most a thousand."""
    standard = StandardOperation.objects.select_related("work_center").filter(code=code).first()
    if standard is None:
        raise TallyError(f"Operation {code} is not in the library.")
    found = (
        Operation.objects.filter(standard=standard)
        .exclude(sheet__status="retired")
        .select_related("sheet__part", "work_center", "standard")
        .prefetch_related("shown")
        .order_by("sheet__part__number", "sheet__alternate", "-sheet_id", "sequence")[:1000]
    )
    return [
        {
            "part": o.sheet.part.number,
            "description": o.sheet.part.description,
            "sheet": o.sheet_id,
            "sheet_version": o.sheet.version,
            "revision": revision_words(o.sheet.alternate, o.sheet.revision),
            "status": o.sheet.status,
            "sequence": o.sequence,
            "standard_version": o.standard_version,
            "behind": o.standard_version != standard.version,
            "differs": list(behind(o, standard)),
        }
        for o in found
    ]


@router.post("/one/refresh", response=Counted)
def refresh(request: HttpRequest, code: str, payload: RefreshIn) -> Any:
    """Bring the operations on the chosen drafts up to what the entry states."""
    return {"count": len(refresh_operations(request.user, code, payload.sheets))}


@router.get("/routings", response=list[Routing])
def read_routings(request: HttpRequest, part: str) -> Any:
    """The routings of a part, the newest first, to copy operations from."""
    sheets = BuildSheet.objects.filter(part__number=part).order_by("alternate", "-id")
    sheets = sheets.prefetch_related("operations__work_center", "operations__standard", "operations__shown")[:30]
    return [
        {
            "sheet": s.id,
            "revision": revision_words(s.alternate, s.revision),
            "status": s.status,
            "operations": [
                {"values": operation_values(o), "work_center_name": (o.work_center.name or o.work_center.code) if o.work_center else ""}
                for o in sorted(s.operations.all(), key=lambda o: (o.sequence, o.resource))
            ],
        }
        for s in sheets
    ]
