"""The API: one router per subject. Its OpenAPI document generates the front end's types."""

import logging
from collections.abc import Callable
from functools import wraps
from typing import Any

import orjson
from accounts.access import Refused, SeesPrices, SignedIn
from accounts.by_token import ByToken
from api.accounts import router as accounts
from api.asking import router as asking
from api.buying import router as buying
from api.costs import router as costing
from api.cutting import router as cutting
from api.drawings import router as drawings
from api.findings import router as findings
from api.finished import router as finished_orders
from api.handover import router as handover
from api.handover_words import router as handover_words
from api.hooks import router as hooks
from api.inquiries import router as inquiries
from api.inquiry_lines import router as inquiry_lines
from api.inquiry_questions import router as inquiry_questions
from api.inquiry_result import router as inquiry_result
from api.jobs import router as jobs
from api.library import router as library
from api.lists import router as lists
from api.offers import router as offers
from api.orders import router as orders
from api.part_classes import router as part_classes
from api.part_files import router as part_files
from api.part_models import router as part_models
from api.part_page import router as part_page
from api.part_rows import router as part_rows
from api.part_stock import router as part_stock
from api.partners import router as partners
from api.parts import router as parts
from api.people import router as people
from api.price_lists import router as price_lists
from api.questions import router as questions
from api.quotes import router as quotes
from api.requests import router as requests
from api.rounds import router as rounds
from api.sheet_edits import router as sheet_edits
from api.sheet_life import router as sheet_life
from api.sheet_lists import router as sheet_lists
from api.sheets import router as sheets
from api.shop import router as shop
from api.shop_figures import router as shop_figures
from api.shop_reports import router as shop_reports
from api.shop_tracing import router as shop_tracing
from api.substitution import router as substitution
from api.today import router as today
from api.tokens import router as tokens
from api.work_centers import router as workcenters
from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from django.db import DataError, IntegrityError, InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from files.store import StoreAwayError
from jobs.long_work import Busy
from loading.moment import one_moment
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.parser import Parser
from ninja.renderers import BaseRenderer
from psycopg.errors import DeadlockDetected, SerializationFailure
from psycopg_pool import PoolTimeout
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from verbs.sheets.stale import Stale

from tally_site.costs_hidden import refuse_costs
from tally_site.health import DATABASE_AWAY
from tally_site.replica import from_replica, may_come_from_replica, pass_over
from tally_site.retrying import ask_for_retry


class Json(BaseRenderer):
    media_type = "application/json"

    def render(self, request: HttpRequest, data: object, *, response_status: int) -> bytes:
        return orjson.dumps(data)


class Strict(Parser):
    """Reads JSON as it is defined (RFC 8259): no Infinity, and text in whole characters."""

    def parse_body(self, request: HttpRequest) -> Any:
        return orjson.loads(request.body)


def _signed_in_only(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    def guarded(request: HttpRequest, *args: Any, **more: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            return HttpResponse('{"detail":"Unauthorized"}', status=401, content_type="application/json")
        return view(request, *args, **more)

    return guarded


def _of_one_moment(view: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(view)
    def seen(request: HttpRequest, *args: Any, **more: Any) -> Any:
        refuse_costs(request)
        if request.method not in ("GET", "HEAD"):
            return view(request, *args, **more)
        if may_come_from_replica(request):
            try:
                with from_replica(), one_moment():
                    return view(request, *args, **more)
            except OperationalError:
                # It went away, or what it was to read was cleaned up on the primary meanwhile.
                pass_over()
        with one_moment():
            return view(request, *args, **more)

    return seen


api = NinjaAPI(
    title="Round Tally",
    version="1",
    auth=[SignedIn(), ByToken()],
    renderer=Json(),
    parser=Strict(),
    docs_url=None,
    docs_decorator=_signed_in_only,
)
api.add_decorator(_of_one_moment)
for prefix, router in (
    ("/session", accounts),
    ("/tokens", tokens),
    ("/people", people),
    ("/today", today),
    ("/parts", parts),
    ("/partners", partners),
    ("/parts", part_classes),
    ("/parts", part_files),
    ("/parts", part_models),
    ("/parts", part_page),
    ("/parts", part_rows),
    ("/parts", part_stock),
    ("/work-centers", workcenters),
    ("/library", library),
    ("/finished-orders", finished_orders),
    ("/sheets", sheets),
    ("/sheets", sheet_edits),
    ("/sheets", sheet_life),
    ("/sheets", sheet_lists),
    ("/lists", lists),
    ("/cutting", cutting),
    ("/shop", shop),
    ("/substitution", substitution),
    ("/shop", shop_figures),
    ("/shop", shop_reports),
    ("/shop", shop_tracing),
    ("/drawings", drawings),
    ("/costing", costing),
    ("/questions", questions),
    ("/rounds", rounds),
    ("/inquiries", inquiries),
    ("/inquiries", inquiry_lines),
    ("/inquiries", inquiry_questions),
    ("/inquiries", inquiry_result),
    ("/findings", findings),
    ("/hooks", hooks),
    ("/handover", handover_words),
    ("/handover", handover),
    ("/jobs", jobs),
):
    api.add_router(prefix, router)
for prefix, router in (
    ("/buying", buying),
    ("/buying", offers),
    ("/buying", asking),
    ("/buying", price_lists),
    ("/orders", orders),
    ("/quotes", quotes),
    ("/requests", requests),
):
    api.add_router(prefix, router, auth=[SeesPrices(), ByToken()])


def _answer(request: HttpRequest, status: int, message: str, problems: list[Problem] | None = None) -> HttpResponse:
    listed = [{"place": p.place, "message": p.message} for p in problems or []]
    return api.create_response(request, {"message": message, "problems": listed}, status=status)


@api.exception_handler(ProblemsError)
def _problems(request: HttpRequest, error: ProblemsError) -> HttpResponse:
    return _answer(request, 422, "; ".join(p.message for p in error.problems), error.problems)


@api.exception_handler(Busy)
def _busy(request: HttpRequest, error: Busy) -> HttpResponse:
    return _answer(request, 503, str(error))


@api.exception_handler(MissingError)
def _missing(request: HttpRequest, error: MissingError) -> HttpResponse:
    return _answer(request, 404, str(error))


@api.exception_handler(TallyError)
def _tally(request: HttpRequest, error: TallyError) -> HttpResponse:
    return _answer(request, 422, str(error))


@api.exception_handler(Refused)
def _refused(request: HttpRequest, error: Refused) -> HttpResponse:
    logging.getLogger("tally.refused").warning("%s %s by %s: %s", request.method, request.path, request.user, error)
    return _answer(request, 403, str(error))


@api.exception_handler(Stale)
def _stale(request: HttpRequest, error: Stale) -> HttpResponse:
    return api.create_response(request, error.answer, status=409)


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    problems = [Problem(".".join(str(at) for at in e["loc"][1:]), e["msg"]) for e in error.errors]
    return _answer(request, 422, "; ".join(f"{p.place}: {p.message}" for p in problems), problems)


@api.exception_handler(HttpError)
def _unreadable(request: HttpRequest, error: HttpError) -> HttpResponse:
    words = "This cannot be read as JSON; nothing was saved." if error.status_code == 400 else str(error)
    return _answer(request, error.status_code, words)


@api.exception_handler(DataError)
def _unkeepable(request: HttpRequest, error: DataError) -> HttpResponse:
    # What a person can type is checked field by field before it gets here; this is for what no screen sends.
    return _answer(request, 422, "This holds a character or a number that cannot be kept; nothing was saved.")


#: What two people did at once, by the rule of the database that the second of them met.
_MET = {
    "part_number": "A part of this number was made by somebody else just now.",
    "workcenter": "A work center of this code was made by somebody else just now.",
    "work_center": "A work center of this code was made by somebody else just now.",
    "standardoperation": "This entry was put into the library by somebody else just now.",
    "standard_operation": "This entry was put into the library by somebody else just now.",
    "part_class": "A class of this name was made by somebody else just now.",
    "option": "This option was made by somebody else just now.",
    "open_order": "This open order was kept by somebody else just now.",
    "waiver": "This finding was waived by somebody else just now.",
    "sheet_once": "This revision was made by somebody else just now.",
    "maker_number": "This maker's number stands there already.",
    "finished_work": "This operation of this order was reported by somebody else just now.",
    "remembered_once": "This sender's number was paired by somebody else just now.",
    "column_map_once": "A column map for such lists was kept by somebody else just now.",
    "kept_list": "A list of this name was kept just now.",
    "columns_once": "A column set of this name was kept just now.",
}


@api.exception_handler(IntegrityError)
def _met(request: HttpRequest, error: IntegrityError) -> HttpResponse:
    name = getattr(getattr(error.__cause__, "diag", None), "constraint_name", None) or ""
    words = next((words for start, words in _MET.items() if start in name), "Somebody else changed the same just now.")
    return _answer(request, 422, f"{words} Nothing was saved; look again and repeat it.")


@api.exception_handler(OSError)
def _full(request: HttpRequest, error: OSError) -> HttpResponse:
    logging.getLogger(__name__).error("A file could not be kept: %s", error)
    return _answer(request, 507, "The disk is full or cannot be written; nothing was saved. Tell whoever keeps this machine.")


@api.exception_handler(StoreAwayError)
def _store_away(request: HttpRequest, error: StoreAwayError) -> HttpResponse:
    logging.getLogger(__name__).error("Where files are kept: %s", error)
    return _answer(request, 503, "The store of files does not answer just now; nothing was saved. Try again in a moment.")


@api.exception_handler(RequestDataTooBig)
def _too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
    most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 1024 // 1024
    return _answer(request, 413, f"This is more than {most} MB at once; nothing was saved. Bring it in in parts, or as a file.")


@api.exception_handler(OperationalError)
def _unreachable(request: HttpRequest, error: OperationalError) -> HttpResponse:
    if isinstance(error.__cause__, DeadlockDetected | SerializationFailure):
        ask_for_retry(request)
        return _answer(request, 503, "Several people changed the same at once; nothing was saved. Try again.")
    return _unreachable_words(request, error)


@api.exception_handler(InterfaceError)
def _cut_off(request: HttpRequest, error: InterfaceError) -> HttpResponse:
    return _unreachable_words(request, error)


def _unreachable_words(request: HttpRequest, error: Exception) -> HttpResponse:
    cause = error.__cause__
    never_there = isinstance(cause, PoolTimeout) or "connection failed" in str(cause) or "connection is bad" in str(cause)
    if request.method in ("GET", "HEAD") or never_there:
        return _answer(request, 503, DATABASE_AWAY)
    # It may have gone while it kept what was sent; then it is kept, and nobody was told.
    return _answer(request, 503, "The database was lost in the middle of it. Whether this was saved is not known: look again in a moment.")
