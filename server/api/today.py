"""Today over HTTP: what waits for the person who is signed in."""

from typing import Any

from buying.today import open_requests
from django.http import HttpRequest
from findings.today import found_on_mine, my_drafts
from handover.today import out_of_step
from inquiries.today import open_inquiries
from ninja import Router, Schema
from readings.heaps import MOST_COUNTED, Source
from readings.today import (
    changed_last,
    days_in_force,
    drifted_prices,
    due_orders,
    first_steps,
    last_buy,
    made_orders,
    no_price,
    no_routing,
    products,
    reported_last,
)
from rounds.today import largest_moves, waiting
from shop.today import at_work, came_to_more, due_work, not_released, over_capacity, short_of_parts, times_to_enter, to_be_closed

__all__ = ["HEAPS", "router"]

router = Router(tags=["today"])

#: The heaps in the order in which they stand: title, what it says when there is nothing, for whom, and where it comes from. A subject
#: adds a line.
HEAPS: tuple[tuple[str, str, set[str], Source], ...] = (
    ("My drafts", "No draft of yours is open.", {"engineer"}, my_drafts),
    ("Inquiries to answer", "No inquiry of yours is open.", {"engineer", "buyer"}, open_inquiries),
    ("Findings on my sheets", "Nothing is found on sheets that you worked at.", {"engineer"}, found_on_mine),
    ("Out of step with the records", "What was handed over is in step, as of last night.", {"engineer"}, out_of_step),
    ("Begin or end within a month", "No sheet begins or ends within a month.", {"engineer"}, days_in_force),
    ("Without a price", "Every part that a sheet takes has a price.", {"engineer", "buyer"}, no_price),
    ("Without a routing", "Every made part says how it is made.", {"engineer"}, no_routing),
    ("Rounds that wait", "No round is open.", {"accountant"}, waiting),
    ("What moves most", "No open round moves anything.", {"accountant"}, largest_moves),
    ("Prices that left their standard", "Every price is the one of its standard.", {"accountant"}, drifted_prices),
    ("Requests not answered", "Every request for quotation is answered.", {"buyer"}, open_requests),
    ("Orders due and late", "No order is due within two weeks.", {"buyer"}, due_orders),
    ("Last buy and ended, still in use", "No part that a sheet takes has ended.", {"buyer"}, last_buy),
    ("Work orders due and late", "No work order is due within two weeks.", {"shop"}, due_work),
    ("Short of parts", "No released order lacks a part.", {"shop", "buyer"}, short_of_parts),
    ("Not released", "No planned order should begin within a week.", {"shop", "engineer"}, not_released),
    ("More to do than time", "No work center has more to do within four weeks than it is open for.", {"shop"}, over_capacity),
    ("Being worked at", "Nobody has begun an operation.", {"shop"}, at_work),
    ("Times to enter", "Every operation that was reported has its minutes.", {"shop"}, times_to_enter),
    ("Done, to be closed", "Every order that is done is closed.", {"shop", "accountant"}, to_be_closed),
    ("Came to more or less than expected", "No order was closed in the last quarter.", {"accountant"}, came_to_more),
    ("Orders of lists due and late", "No order that came with a list is due within two weeks.", {"shop"}, made_orders),
    ("Reported last", "No finished order was reported yet.", {"shop"}, reported_last),
    ("Products", "Nothing is made here yet.", {"shop", "viewer", "accountant"}, products),
    ("Changed last", "No sheet was changed yet.", {"engineer", "shop", "viewer", "buyer"}, changed_last),
)


class HeapRow(Schema):
    """One thing, and the address of the screen where it is done."""

    name: str
    what: str
    more: str
    to: str
    urgent: bool


class HeapOut(Schema):
    """Rows of one kind; ``total`` of them stand at ``to``, where there is such a place; or more, where not all were counted."""

    title: str
    empty: str
    rows: list[HeapRow]
    total: int
    all_counted: bool
    to: str


class StepOut(Schema):
    """A first step of an empty workspace."""

    what: str
    why: str
    to: str
    done: bool


class TodayOut(Schema):
    """What waits for somebody, by role; on an empty workspace the first steps, for who may take them."""

    steps: list[StepOut]
    heaps: list[HeapOut]


@router.get("", response=TodayOut)
def read_today(request: HttpRequest) -> Any:
    """What waits for the signed-in person. A fixed number of queries for each role."""
    roles = set(request.user.groups.values_list("name", flat=True)) or {"viewer"}
    steps = [dict(zip(("what", "why", "to", "done"), step, strict=True)) for step in first_steps()]
    heaps = []
    for title, empty, whom, source in HEAPS:
        if roles & whom:
            heap = source(request.user)
            whole = heap.total < MOST_COUNTED
            heaps.append({"title": title, "empty": empty, "rows": heap.rows, "total": heap.total, "all_counted": whole, "to": heap.to})
    return {"steps": steps if "engineer" in roles else [], "heaps": heaps}
