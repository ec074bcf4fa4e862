"""Price lists of suppliers over HTTP: brought, read by the worker, looked at, kept."""

from typing import Any

from accounts.access import require
from buying.actions.take_price_list import KIND, bring_price_list, keep_price_list, let_go_price_list, map_price_list
from buying.models import PriceList
from buying.states import PRICE_LIST_ACTIONS
from django.http import HttpRequest
from jobs.work import job_state, last_job
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError

from api.jobs import JobOut, job_out

__all__ = ["OfferListOut", "router"]

router = Router(tags=["buying"])


class OfferListOut(Schema):
    """``good``: offers that can be kept, ``kept``: those that were, ``replaced``: earlier ones of lists that went for them; ``wrong``: how many
    rows are not, and why, the first of them."""

    good: int
    kept: int
    replaced: int = 0
    wrong: int
    problems: list[str]
    look: list[str]


class PriceListWhyNot(Schema):
    """For each action why it cannot be done with a price list as it stands, in words; null where it can."""

    map: str | None
    keep: str | None
    let_go: str | None


class PriceListOut(Schema):
    """A list as it is read: its titles, the first rows beneath them, which column holds what, and what came of it.

    ``said`` is empty until a worker has read it, ``mapped``: somebody said what its columns hold.
    """

    id: int
    supplier: str
    name: str
    state: str
    titles: list[str]
    sample: list[list[str]]
    columns: dict[str, int]
    mapped: bool
    said: OfferListOut | None
    why_not: PriceListWhyNot
    brought_by: str
    brought_at: str
    version: int
    job: JobOut | None
    failed: str


class PriceColumnsIn(Schema):
    """Which column, counted from 0, holds what."""

    columns: dict[str, int]
    version: int | None = None


class PriceListVersion(Schema):
    version: int | None = None


def _list(list_id: int) -> dict[str, Any]:
    of = PriceList.objects.filter(pk=list_id).first()
    if of is None:
        raise MissingError("This list is no longer there.")
    state = job_state(last_job(KIND, of.pk))
    return {
        "id": of.pk,
        "supplier": of.supplier_id or "",
        "name": of.name,
        "state": of.state,
        "titles": of.titles,
        "sample": of.sample,
        "columns": of.columns,
        "mapped": of.mapped,
        "said": of.said,
        "why_not": PRICE_LIST_ACTIONS.answers(of.state, of.name),
        "brought_by": of.brought_by,
        "brought_at": of.brought_at.isoformat(),
        "version": of.version,
        "job": job_out(state),
        "failed": state.failed,
    }


@router.post("/price-lists", response=PriceListOut)
def bring(request: HttpRequest, code: str, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Bring the price list of the supplier of a code; the worker reads it."""
    require(request.user, "buying")
    return _list(bring_price_list(request.user, code, file.name or "list", file.read()).pk)


@router.get("/price-lists", response=list[PriceListOut])
def last_of(request: HttpRequest, code: str) -> Any:
    """The last list of the supplier of a code, while it waits to be looked at or was kept."""
    last = PriceList.objects.filter(supplier__code=code).exclude(state="let go").first()
    return [_list(last.pk)] if last else []


@router.put("/price-lists/{list_id}/columns", response=PriceListOut)
def say_columns(request: HttpRequest, list_id: int, payload: PriceColumnsIn) -> Any:
    """Say which column holds what; it is read anew."""
    map_price_list(request.user, list_id, payload.version, payload.columns)
    return _list(list_id)


@router.post("/price-lists/{list_id}/keep", response=PriceListOut)
def keep(request: HttpRequest, list_id: int, payload: PriceListVersion) -> Any:
    """Keep the offers that are right."""
    keep_price_list(request.user, list_id, payload.version)
    return _list(list_id)


@router.post("/price-lists/{list_id}/let-go", response=PriceListOut)
def let_go(request: HttpRequest, list_id: int, payload: PriceListVersion) -> Any:
    """Keep nothing of it."""
    let_go_price_list(request.user, list_id, payload.version)
    return _list(list_id)
