"""What things cost, kept from whoever may only look, where that is set (``TALLY_COSTS_HIDDEN``).

Two ways, each in one place for all of the API: addresses that are about costs are closed, and out of every other answer the figures are taken by
their names. A list of names can lack one; so a test compares all that a viewer is answered with what they are answered when everything costs
something else (``tally_site/tests/test_costs_hidden.py``).
"""

import re
from collections.abc import Callable, Collection
from typing import Any

import orjson
from accounts.access import Refused, sees_costs
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from readings.part_list import money_fields

__all__ = ["CostsHidden", "refuse_costs"]

_CLOSED = re.compile(r"/api/(costing/(?!buildable)|questions/|rounds(/|$)|sheets/(compare|matrix)|parts/rows|shop/(figures|stock(/|$)))")
#: Of parts, work centers, operations and sheets.
_NAMES = frozenset(
    [
        "unit_cost",
        "given_cost",
        "overhead_percent",
        "markup_percent",
        "prices",
        "selling_price",
        "computed",
        "labor_rate",
        "setup_labor_rate",
        "machine_rate",
        "overhead_per_hour",
        "overhead_percent_of_labor",
        "rates",
        "piece_rate",
        "minimum_charge",
        "unit_price",
        "cost",
        "costs",
        "this_level",
        "elements",
        "rolled",
    ]
)
#: And of orders of our own; elsewhere the same words mean other things.
_IN_THE_SHOP = _NAMES | set(
    ["spent", "rest", "difference", "actual", "expected", "actual_total", "expected_total", "amount", "value", "by_cause", "came_to"]
)


class CostsHidden:
    """Middleware: takes costs out of every answer of the API in JSON, whatever made it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        # Where the database cannot be reached nobody is told anything but that.
        if (
            settings.COSTS_HIDDEN
            and response.status_code < 500
            and response.headers.get("Content-Type", "").startswith("application/json")
            and _is_kept_from(request)
        ):
            names = (_IN_THE_SHOP if request.path.startswith("/api/shop/") else _NAMES) | money_fields()
            response.content = orjson.dumps(_without(names, orjson.loads(response.content)))
        return response


def refuse_costs(request: HttpRequest) -> None:
    """Raise Refused where an address is about costs and whoever asks does not see them."""
    if settings.COSTS_HIDDEN and _CLOSED.match(request.path) and _is_kept_from(request):
        raise Refused("What things cost is not shown to you here; ask somebody who may change them.")


def _is_kept_from(request: HttpRequest) -> bool:
    # With a token it is whoever made it, who stands in the request only since it was read.
    return request.user.is_authenticated and not sees_costs(request.user)


def _without(names: Collection[str], answer: Any) -> Any:
    """An answer, in plain values, without the figures of some names: nothing stands where they stood, in rows and columns of the same number."""
    if isinstance(answer, dict):
        if any(isinstance(said, str) and said in names for said in (answer.get("field"), answer.get("name"))):
            # A change of such a field, as histories tell it, or what it is known by where a run time is computed.
            answer = answer | {name: _nothing(answer[name]) for name in ("before", "after", "value") if name in answer}
        return {name: _nothing(value) if name in names else _without(names, value) for name, value in answer.items()}
    return [_without(names, value) for value in answer] if isinstance(answer, list) else answer


def _nothing(value: Any) -> Any:
    if isinstance(value, dict):
        return {name: _nothing(v) for name, v in value.items()}
    if isinstance(value, list):
        return [] if any(isinstance(v, dict) for v in value) else [None] * len(value)
    return "" if isinstance(value, str) else None
