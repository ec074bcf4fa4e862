"""The API: one router per subject. Its OpenAPI document generates the front end's types."""

import orjson
from accounts.access import Refused, SignedIn
from accounts.api import router as accounts
from costing.api import router as costing
from costing.questions_api import router as questions
from costing.rounds_api import router as rounds
from django.db import DataError, OperationalError
from django.http import HttpRequest, HttpResponse
from findings.api import router as findings
from intake.api import router as intake
from ninja import NinjaAPI
from ninja.errors import ValidationError
from ninja.renderers import BaseRenderer
from parts.api import router as parts
from sheets.actions.edit_sheet import Stale
from sheets.api import router as sheets
from tally_core.errors import Problem, ProblemsError, TallyError
from workcenters.api import router as workcenters
from workcenters.finished_api import router as finished_orders
from workcenters.library_api import router as library


class Json(BaseRenderer):
    media_type = "application/json"

    def render(self, request: HttpRequest, data: object, *, response_status: int) -> bytes:
        return orjson.dumps(data)


api = NinjaAPI(title="Round Tally", version="1", auth=SignedIn(), renderer=Json(), docs_url=None)
for prefix, router in (
    ("/session", accounts),
    ("/parts", parts),
    ("/work-centers", workcenters),
    ("/library", library),
    ("/finished-orders", finished_orders),
    ("/sheets", sheets),
    ("/costing", costing),
    ("/questions", questions),
    ("/rounds", rounds),
    ("/intake", intake),
    ("/findings", findings),
):
    api.add_router(prefix, router)


def _answer(request: HttpRequest, status: int, message: str, problems: list[Problem] | None = None) -> HttpResponse:
    listed = [{"place": p.place, "message": p.message} for p in problems or []]
    return api.create_response(request, {"message": message, "problems": listed}, status=status)


@api.exception_handler(ProblemsError)
def _problems(request: HttpRequest, error: ProblemsError) -> HttpResponse:
    return _answer(request, 422, "; ".join(p.message for p in error.problems), error.problems)


@api.exception_handler(TallyError)
def _tally(request: HttpRequest, error: TallyError) -> HttpResponse:
    return _answer(request, 422, str(error))


@api.exception_handler(Refused)
def _refused(request: HttpRequest, error: Refused) -> HttpResponse:
    return _answer(request, 403, str(error))


@api.exception_handler(Stale)
def _stale(request: HttpRequest, error: Stale) -> HttpResponse:
    return api.create_response(request, error.answer, status=409)


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    problems = [Problem(".".join(str(at) for at in e["loc"][1:]), e["msg"]) for e in error.errors]
    return _answer(request, 422, "; ".join(f"{p.place}: {p.message}" for p in problems), problems)


@api.exception_handler(DataError)
def _unkeepable(request: HttpRequest, error: DataError) -> HttpResponse:
    # What a person can type is checked field by field before it gets here; this is for what no screen sends.
    return _answer(request, 422, "This holds a character or a number that cannot be kept; nothing was saved.")


@api.exception_handler(OperationalError)
def _unreachable(request: HttpRequest, error: OperationalError) -> HttpResponse:
    return _answer(request, 503, "The database cannot be reached; nothing was saved. Try again in a moment.")
