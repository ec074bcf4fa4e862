"""Orders as they are read: lists with how far each is, one with all that stands on it, what waits at a work center."""

from collections import defaultdict
from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from definition.models.parts import OpenOrder, Tracing
from definition.models.work_centers import WorkCenter
from definition.records import plain_decimal
from django.db import connection
from django.db.models import Q, QuerySet
from django.db.models.fields.json import KT
from django.utils.timezone import localdate, localtime
from loading.columns import keys_text
from readings.survey import revision_words
from tally_core.basics.errors import MissingError, TallyError
from tally_core.shop.reporting import came
from tally_core.shop.variances import CAUSES

from shop.laying import sheet_for
from shop.ledger import Book
from shop.models import OPEN, Component, Entry, OrderOperation, Posting, ShownFile, WorkOrder
from shop.order_states import answers
from shop.outcome import expected_rest, plain_outcome
from shop.stations import floats
from shop.stock import free_of

__all__ = ["SHORT_SQL", "center_queue", "centers", "listed_orders", "one_order", "shown_orders", "whats_here"]

_NONE = Decimal(0)
#: How far each order is: operations done, each by the share of its units that were reported.
_PROGRESS = """
    SELECT order_id, count(*), sum(least((good + scrapped) / nullif(planned, 0), 1)), sum(scrapped)
    FROM shop_orderoperation WHERE order_id = ANY(%s::bigint[]) AND resource = 0 GROUP BY order_id
"""
#: Stock goes to the order that is wanted first; who comes after the last of it is short.
SHORT_SQL = """
    SELECT order_id, count(*) FROM (
        SELECT c.order_id, sum(c.required - c.issued - c.stood_in) OVER (
            PARTITION BY c.part_id ORDER BY o.wanted NULLS LAST, o.id, c.id) AS upto, coalesce(w.quantity, 0) AS there
        FROM shop_component c JOIN shop_workorder o ON o.id = c.order_id JOIN definition_part p ON p.id = c.part_id
        LEFT JOIN definition_stockworth w ON w.part_id = c.part_id
        WHERE o.state IN ('released', 'running') AND NOT c.byproduct AND NOT c.customer_supplied AND p.kind <> 'charge'
            AND c.required > c.issued + c.stood_in
    ) AS needs WHERE upto > there GROUP BY order_id
"""


def _moment(at: Any) -> str | None:
    return localtime(at).isoformat(timespec="minutes") if at else None


def _text(value: Decimal | None) -> str:
    return plain_decimal(value) or "0"


#: What a row of a list says of an order, out of the database.
_ROW = (
    "id", "number", "part__number", "part__description", "part__unit", "quantity", "good", "state", "wanted", "starts_at", "ends_at", "expected", "spent",
    "parent__number", "parent_id", "options", "closed_at", "difference",
)  # fmt: skip


def listed_orders(found: QuerySet[WorkOrder]) -> list[dict[str, Any]]:
    """Rows of some orders: three queries, however many they are."""
    rows = list(found.annotate(difference=KT("came_to__difference")).values_list(*_ROW))
    with connection.cursor() as cursor:
        cursor.execute(_PROGRESS, [keys_text([row[0] for row in rows])])
        progress = {key: (operations, done, scrapped) for key, operations, done, scrapped in cursor.fetchall()}
        cursor.execute(SHORT_SQL)
        short = dict(cursor.fetchall())
    today = localdate()
    return [_head(row, progress.get(row[0]), short.get(row[0], 0), today) for row in rows]


def _head(row: tuple, progress: tuple[int, Decimal, Decimal] | None, short: int, today: date) -> dict[str, Any]:
    (key, number, part, description, unit, quantity, good, state, wanted, starts, ends, expected, spent, parent, parent_id, options, closed, difference) = row  # fmt: skip
    operations, done, scrapped = progress or (0, _NONE, _NONE)
    if state in ("done", "closed"):
        done = Decimal(operations)
    open_ = state in OPEN and state != "done"
    return {
        "id": key, "number": number, "part": part, "description": description, "unit": unit, "quantity": _text(quantity), "good": _text(good),
        "scrapped": _text(scrapped or _NONE), "state": state, "wanted": wanted.isoformat() if wanted else None, "starts": _moment(starts),
        "ends": _moment(ends), "expected": _text(expected) if expected is not None else None, "spent": _text(spent), "operations": operations,
        "done": int(done or 0), "share": float(done or 0) / operations if operations else 0.0, "short": short,
        "late": max((today - wanted).days, 0) if wanted and open_ else 0, "parent": parent, "parent_id": parent_id, "options": options,
        "closed": _moment(closed), "difference": difference,
    }  # fmt: skip


def shown_orders(which: str, most: int = 5000) -> list[dict[str, Any]]:
    """``which``: open, or all. The most urgent first; closed ones after them, the newest first."""
    found = WorkOrder.objects.filter(state__in=OPEN) if which == "open" else WorkOrder.objects.all()
    rows = listed_orders(found.order_by("-id")[:most])
    return sorted(rows, key=lambda r: (r["state"] not in OPEN, r["wanted"] or "9999", r["id"]))


def one_order(order: WorkOrder) -> dict[str, Any]:
    """An order with its operations, components, ledger, and what it came to: a fixed number of queries."""
    book = Book(order, list(order.operations.select_related("center")), list(order.components.select_related("part")))
    entries = list(order.entries.prefetch_related("postings__part", "postings__move__lots__lot").select_related("reverses"))
    postings = [p for e in entries for p in e.postings.all()]
    # What was kept has lost its order in the database.
    behind, other = _behind(order)
    said = order.came_to and order.came_to | {"by_cause": {n: order.came_to["by_cause"].get(n, "0") for n in CAUSES}}
    rest = None
    if said is None and order.plan is not None:
        said = plain_outcome(order, postings, book.operations, book.components)
        rest = f"{float(expected_rest(order, postings)):.6f}"
    traced = dict(Tracing.objects.filter(part__in=[order.part_id, *(c.part_id for c in book.components)]).values_list("part", "by"))
    nested = listed_orders(order.nested.order_by("id"))
    return listed_orders(WorkOrder.objects.filter(pk=order.pk))[0] | {
        "why_not": answers(order), "version": order.version, "note": order.note, "alternate": order.alternate, "made_by": order.made_by, "made": _moment(order.made_at),
        "released_by": order.released_by, "released": _moment(order.released_at), "closed_by": order.closed_by,
        "sheet": revision_words(order.sheet.alternate, order.sheet.revision) if order.sheet else None, "sheet_id": order.sheet_id,
        "behind": behind, "behind_id": other, "stages": _stages(book), "components": _components(book, traced), "traced": traced.get(order.part_id, ""), "nested": nested,
        "entries": _entries(book, entries), "came_to": said, "rest": rest,
        "reason": order.history.order_by("-history_id").values_list("history_change_reason", flat=True).first() or "",
    }  # fmt: skip


def _behind(order: WorkOrder) -> tuple[str, int | None]:
    """Which other sheet is in force by now for an order that could still take it over, in words and by its key."""
    if order.sheet is None or order.state not in ("released", "running"):
        return "", None
    try:
        now = sheet_for(order.part, order.alternate, localdate())
    except TallyError:
        return "its sheet is no longer in force", None
    return ("", None) if now.pk == order.sheet_id else (f"{revision_words(now.alternate, now.revision)} is in force now", now.pk)


def _shown(operations: list[OrderOperation]) -> dict[int, list[dict[str, Any]]]:
    """For each operation the files that are shown with it, in their order. One query."""
    found: dict[int, list[dict[str, Any]]] = defaultdict(list)
    rows = ShownFile.objects.filter(operation__in=[o.pk for o in operations])
    for operation, file, name in rows.values_list("operation", "file", "file__name"):
        found[operation].append({"id": file, "name": name})
    return found


def _stages(book: Book) -> list[dict[str, Any]]:
    stages, leads = book.stages()
    files = _shown(leads)
    return [
        {
            "sequence": o.sequence, "name": o.name, "center": o.center.code if o.center else "", "center_name": o.center.name if o.center else "",
            "outside": o.outside, "supplier": o.supplier, "planned": _text(o.planned), "came": _text(o.sent if o.outside else came(stages, i)),
            "here": _text(came(stages, i)), "good": _text(o.good), "scrapped": _text(o.scrapped), "sent": _text(o.sent),
            "setup_minutes": _text(o.setup_minutes), "run_minutes": _text(o.run_minutes), "starts": _moment(o.starts_at), "ends": _moment(o.ends_at),
            "begun": _moment(o.begun_at), "begun_by": o.begun_by, "instructions": o.instructions,
            "files": files[o.pk],
        }
        for i, o in enumerate(leads)
    ]  # fmt: skip


def _components(book: Book, traced: dict[int, str]) -> list[dict[str, Any]]:
    keys = {c.part_id for c in book.components}
    free = free_of(keys, but=book.order.pk)
    coming: dict[int, list[str]] = defaultdict(list)
    for part, order, due in OpenOrder.objects.filter(part__in=keys).values_list("part", "order", "due_on"):
        coming[part].append(f"{order}{f' on {due:%d %b}' if due else ''}")
    sequences = {o.row: o.sequence for o in book.operations}
    rows = []
    for c in book.components:
        on_hand, taken = free[c.part_id]
        left = max(c.required - c.issued - c.stood_in, _NONE)
        counts = not c.byproduct and not c.customer_supplied and c.part.kind != "charge" and book.order.state in ("released", "running")
        short = max(left - max(on_hand - taken, _NONE), _NONE) if counts else _NONE
        rows.append(
            {
                "row": c.row, "item": c.item, "part": c.part.number, "description": c.part.description, "unit": c.part.unit,
                "sequence": sequences.get(c.operation) if c.operation is not None else None, "required": _text(c.required), "issued": _text(c.issued),
                "stood_in": _text(c.stood_in), "byproduct": c.byproduct, "customer_supplied": c.customer_supplied, "traced": traced.get(c.part_id, ""), "backflush": c.backflush,
                "on_hand": _text(on_hand), "spoken_for": _text(taken), "short": _text(short), "coming": ", ".join(coming[c.part_id][:3]) if short else "",
            }
        )  # fmt: skip
    return rows


def _entries(book: Book, entries: Sequence[Entry]) -> list[dict[str, Any]]:
    reversed_ones = {e.reverses_id for e in entries if e.reverses_id}
    sequences = {o.row: o.sequence for o in book.operations}
    return [
        {
            "id": e.pk, "kind": e.kind, "at": _moment(e.at), "done_by": e.done_by, "posted_by": e.posted_by, "reason": e.reason,
            "reversed": e.pk in reversed_ones, "reverses": e.reverses_id,
            "value": _text(sum((p.value for p in e.postings.all() if p.kind not in ("receipt", "rest")), _NONE)),
            "lines": [_line(p, sequences) for p in e.postings.all()],
        }
        for e in reversed(entries)
    ]  # fmt: skip


def _line(p: Posting, sequences: dict[int, int]) -> dict[str, Any]:
    return {
        "kind": p.kind, "sequence": sequences.get(p.operation) if p.operation is not None else None, "part": p.part.number if p.part else "",
        "unit": p.part.unit if p.part else "", "quantity": _text(p.quantity), "stood_in": _text(p.stood_in), "good": _text(p.good),
        "scrapped": _text(p.scrapped), "minutes": _text(p.setup_minutes + p.run_minutes), "value": _text(p.value), "row": p.component,
        "codes": [x.lot.code for x in p.move.lots.all()] if p.move else [],
    }  # fmt: skip


def centers() -> list[dict[str, Any]]:
    """Every work center at which something of an open order is done, with how much waits there."""
    rows = OrderOperation.objects.filter(order__state__in=("released", "running"), resource=0, center__isnull=False).select_related(
        "center"
    )
    waiting: dict[int, list[OrderOperation]] = defaultdict(list)
    found: dict[int, WorkCenter] = {}
    of_group: dict[str, list[WorkCenter]] = defaultdict(list)
    for c in WorkCenter.objects.filter(group__in={o.group for o in rows if floats(o)}).exclude(group=""):
        of_group[c.group].append(c)
    for o in rows:
        if o.center is not None and o.good + o.scrapped < o.planned:
            # It keeps the group that it was released with; its work center may be in another by now.
            for c in {o.center, *of_group[o.group]} if floats(o) else {o.center}:
                waiting[c.pk].append(o)
                found[c.pk] = c
    return [
        {"code": c.code, "name": c.name, "operations": len(waiting[key]), "begun": sum(1 for o in waiting[key] if o.begun_at)}
        for key, c in sorted(found.items(), key=lambda item: item[1].code)
    ]  # fmt: skip


def center_queue(code: str) -> dict[str, Any]:
    """What is to be done at a work center: what was begun first, then what could be, then what still waits for units. A fixed number of queries.

    Raises MissingError.
    """
    center = WorkCenter.objects.filter(code=code).first()
    if center is None:
        raise MissingError(f"There is no work center {code}.")
    orders = {
        o.pk: o
        for o in WorkOrder.objects.filter(
            Q(operations__center=center) | Q(operations__group=center.group, operations__group__gt=""),
            state__in=("released", "running"), operations__resource=0,
        ).select_related("part").defer("plan", "came_to").distinct()
    }  # fmt: skip
    operations: dict[int, list[OrderOperation]] = defaultdict(list)
    for row in OrderOperation.objects.filter(order__in=list(orders)).select_related("center").order_by("row"):
        operations[row.order_id].append(row)
    components: dict[int, list[Component]] = defaultdict(list)
    for c in Component.objects.filter(order__in=list(orders), byproduct=False).select_related("part"):
        components[c.order_id].append(c)
    files = _shown([o for rows in operations.values() for o in rows])
    tasks = []
    for key, order in orders.items():
        book = Book(order, operations[key], components[key])
        stages, leads = book.stages()
        for i, o in enumerate(leads):
            here_too = floats(o) and o.group == center.group
            if (o.center_id != center.pk and not here_too) or o.good + o.scrapped >= o.planned:
                continue
            here = came(stages, i) - o.good - o.scrapped
            share = max(here, _NONE) / o.planned if o.planned else _NONE
            tasks.append(
                {
                    "order": order.pk, "number": order.number, "part": order.part.number, "description": order.part.description, "unit": order.part.unit,
                    "wanted": order.wanted.isoformat() if order.wanted else None, "sequence": o.sequence, "name": o.name, "any_of": o.group if here_too else "", "place": i + 1, "of": len(leads),
                    "planned": _text(o.planned), "here": _text(max(here, _NONE)), "good": _text(o.good), "scrapped": _text(o.scrapped),
                    "setup_minutes": _text(o.setup_minutes if not o.good + o.scrapped else _NONE), "run_minutes": _text(round(o.run_minutes * share, 1)),
                    "starts": _moment(o.starts_at), "begun": _moment(o.begun_at), "begun_by": o.begun_by, "instructions": o.instructions,
                    "files": files[o.pk],
                    "takes": [
                        {"row": c.row, "part": c.part.number, "description": c.part.description, "unit": c.part.unit,
                         "quantity": _text(max(c.required - c.issued - c.stood_in, _NONE)), "backflush": c.backflush}
                        for c in components[key] if c.operation == o.row
                    ],
                }
            )  # fmt: skip
    tasks.sort(key=lambda t: (t["begun"] is None, t["here"] == "0", t["wanted"] or "9999", t["starts"] or "", t["order"]))
    return {"code": center.code, "name": center.name, "tasks": tasks}


def whats_here() -> list[dict[str, Any]]:
    """Every operation of an open order at which units wait to be reported, with the time that they should take. A fixed number of queries."""
    orders = {o.pk: o for o in WorkOrder.objects.filter(state__in=("released", "running")).select_related("part").defer("plan", "came_to")}
    operations: dict[int, list[OrderOperation]] = defaultdict(list)
    for row in OrderOperation.objects.filter(order__in=list(orders)).select_related("center").order_by("row"):
        operations[row.order_id].append(row)
    said = []
    for key, order in sorted(orders.items(), key=lambda item: (item[1].wanted or date.max, item[0])):
        stages, leads = Book(order, operations[key], []).stages()
        for i, o in enumerate(leads):
            there = o.sent if o.outside else came(stages, i)
            left = there - o.good - o.scrapped
            if left <= 0:
                continue
            where = f"outside: {o.supplier}" if o.outside else o.center.code if o.center else ""
            setup = o.setup_minutes if not o.good + o.scrapped else _NONE
            said.append(
                {
                    "order": order.number, "part": order.part.number, "description": order.part.description, "unit": order.part.unit,
                    "sequence": o.sequence, "name": o.name, "where": where, "here": _text(left),
                    "setup_minutes": _text(round(setup, 1)), "run_minutes": _text(round(o.run_minutes * left / o.planned, 1) if o.planned else _NONE),
                }
            )  # fmt: skip
    return said
