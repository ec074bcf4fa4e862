"""Partners over HTTP: customers, suppliers and makers."""

from typing import Any

from definition.models.parts import MakerNumber, Part, Workspace
from definition.models.sheets import Operation
from definition.models.work_centers import StandardOperation
from django.db.models import Count, Q
from django.http import HttpRequest
from ninja import Router, Schema
from partners.models import ROLES, Partner
from verbs.partners.save_firm import save_firm
from verbs.partners.save_partner import FIELDS, drop_partner, join_partners, save_partner

__all__ = ["router"]

router = Router(tags=["partners"])


class PartnerFields(Schema):
    """A firm we deal with; an empty currency is that of the workspace."""

    code: str
    name: str
    customer: bool
    supplier: bool
    maker: bool
    currency: str
    contact: str
    mail: str
    note: str


class PartnerOut(PartnerFields):
    """With how many parts it supplies, operations it does for us, and maker's numbers that are its own."""

    version: int
    parts: int = 0
    operations: int = 0
    maker_numbers: int = 0


class PartnerIn(Schema):
    """What was typed. A field left out stays as it is."""

    code: str | None = None
    name: str | None = None
    customer: bool | None = None
    supplier: bool | None = None
    maker: bool | None = None
    currency: str | None = None
    contact: str | None = None
    mail: str | None = None
    note: str | None = None
    version: int | None = None

    def fields(self) -> dict[str, Any]:
        return {n: v for n, v in self.dict(exclude={"version"}).items() if v is not None}


class FirmOut(Schema):
    """Who we are, on papers that leave."""

    firm: str
    firm_address: str
    firm_mail: str


class FirmIn(Schema):
    """What was typed. A field left out stays as it is."""

    firm: str | None = None
    firm_address: str | None = None
    firm_mail: str | None = None


class Joined(Schema):
    """Into which other partner, by its code."""

    into: str
    version: int


class Version(Schema):
    version: int


class Done(Schema):
    done: bool = True


def _counts(model: Any, field: str) -> dict[str, int]:
    found = model.objects.exclude(**{field: None}).values_list(field).annotate(n=Count("pk")).order_by()
    return dict(found)


def _out(row: Partner, **counts: int) -> dict[str, Any]:
    return {n: getattr(row, n) for n in FIELDS} | {"version": row.version} | counts


@router.get("", response=list[PartnerOut])
def list_partners(request: HttpRequest, role: str = "", search: str = "") -> Any:
    """All partners by name, or those of a role, whose name or code holds every word. A fixed number of queries."""
    rows = Partner.objects.all()
    if role in ROLES:
        rows = rows.filter(**{role: True})
    for word in search.split()[:8]:
        rows = rows.filter(Q(name__icontains=word) | Q(code__icontains=word))
    parts, makers = _counts(Part, "supplier_id"), _counts(MakerNumber, "maker_id")
    operations, library = _counts(Operation, "supplier_id"), _counts(StandardOperation, "supplier_id")
    return [
        _out(
            row,
            parts=parts.get(row.name, 0),
            operations=operations.get(row.name, 0) + library.get(row.name, 0),
            maker_numbers=makers.get(row.name, 0),
        )
        for row in rows
    ]


@router.get("/ourselves", response=FirmOut)
def read_firm(request: HttpRequest) -> Any:
    """Who we are; empty while nobody said it."""
    return Workspace.the()


@router.patch("/ourselves", response=FirmOut)
def change_firm(request: HttpRequest, payload: FirmIn) -> Any:
    """Say who we are."""
    return save_firm(request.user, {n: v for n, v in payload.dict().items() if v is not None})


@router.post("", response=PartnerOut)
def make_partner(request: HttpRequest, payload: PartnerIn) -> Any:
    """Make a partner; without a code it takes the next running one."""
    return _out(save_partner(request.user, payload.fields()))


@router.patch("/one", response=PartnerOut)
def change_partner(request: HttpRequest, code: str, payload: PartnerIn) -> Any:
    """Change a partner; what names it follows its name."""
    return _out(save_partner(request.user, payload.fields(), code, payload.version))


@router.post("/one/join", response=PartnerOut)
def join(request: HttpRequest, code: str, payload: Joined) -> Any:
    """Make two rows that are one firm one: this one goes, and what names it names the other."""
    return _out(join_partners(request.user, code, payload.version, payload.into))


@router.post("/one/drop", response=Done)
def drop(request: HttpRequest, code: str, payload: Version) -> Any:
    """Take a partner away that nothing names."""
    drop_partner(request.user, code, payload.version)
    return {}
