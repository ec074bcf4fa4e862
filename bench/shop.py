"""The shop: a report with its backflush against bare writes, progress against bare reads, variances against their postings, buildable against needs."""

import json
import time
from datetime import timedelta
from decimal import Decimal
from typing import Any
from uuid import uuid4

from bench.measure import median, medians, report

__all__ = ["buildable_against_needs", "progress_against_bare_reads", "report_against_bare_writes", "variances_against_postings"]


def _product(number: str, lines: int) -> dict[str, Any]:
    """One part of so many bought ones, of each a million on hand."""
    bought = [{"number": f"{number}-{n}", "kind": "bought", "unit": "ea", "unit_cost": "1", "on_hand": "1000000"} for n in range(lines)]
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "work_centers": [{"code": "BENCH", "labor_rate": "30"}],
        "parts": [*bought, {"number": number, "kind": "made", "unit": "ea"}],
        "build_sheets": [
            {
                "part": number,
                "status": "released",
                "operations": [
                    {"sequence": 10, "work_center": "BENCH", "run_minutes": "1"},
                    {"sequence": 20, "work_center": "BENCH", "run_minutes": "1"},
                ],
                "lines": [{"item": n + 1, "part": p["number"], "quantity": "1", "issue_at": 10} for n, p in enumerate(bought)],
            }
        ],
    }


def _ready() -> Any:
    from django.contrib.auth.models import User
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    return User.objects.filter(username="bench").first() or User.objects.create_superuser("bench")


def report_against_bare_writes(lines: int) -> bool:
    """One report of an operation that takes so many lines, against the inserts and updates of the same rows in SQL, each in a transaction."""
    from django.db import connection, transaction
    from django.test.utils import CaptureQueriesContext
    from shop.actions.open_order import open_order
    from shop.actions.release_order import release_order
    from shop.actions.report_work import Report, report_work
    from shop.models import Component, Entry, Posting
    from verbs.sheets.load_bundle import load_bundle

    user = _ready()
    load_bundle(_product("BENCH-SHOP", lines), "bench")
    order = open_order(user, "BENCH-SHOP", "100000", nest=False)
    order = release_order(user, order.pk, order.version)

    def ours() -> None:
        report_work(user, order.pk, uuid4(), Report(10, "1", run_minutes="1"))

    ours()
    with CaptureQueriesContext(connection) as queries:
        ours()
    entry = Entry.objects.filter(order=order).latest("id")
    moves = [p.move for p in Posting.objects.filter(entry=entry, move__isnull=False).select_related("move")]
    components = list(Component.objects.filter(order=order).values_list("pk", flat=True))
    move_rows = [(m.part_id, m.quantity, m.value, json.dumps(m.elements), m.reason, m.made_by, m.made_at) for m in moves if m]

    def bare() -> None:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SELECT * FROM shop_workorder WHERE id = %s FOR UPDATE", [order.pk])
            cursor.execute(
                "INSERT INTO shop_entry (key, order_id, kind, at, done_by, posted_at, posted_by, reason) VALUES (%s, %s, 'report', now(), '', now(), '', '') RETURNING id",
                [uuid4(), order.pk],
            )
            key = cursor.fetchone()[0]
            cursor.executemany(
                "INSERT INTO definition_stockmove (part_id, quantity, value, elements, reason, made_by, made_at) VALUES (%s, %s, %s, %s, %s, %s, %s) RETURNING id",
                move_rows,
            )
            cursor.execute("SELECT max(id) FROM definition_stockmove")
            last = cursor.fetchone()[0]
            cursor.executemany(
                "INSERT INTO shop_posting (entry_id, order_id, kind, operation, component, part_id, quantity, stood_in, good, scrapped, setup_minutes, run_minutes, value, elements, move_id) "
                "VALUES (%s, %s, 'issue', 0, %s, %s, 1, 0, 0, 0, 0, 0, 1, '{\"material\": \"1\"}', %s)",
                [(key, order.pk, n, row[0], last - n) for n, row in enumerate(move_rows)],
            )
            cursor.executemany(
                "UPDATE definition_stockworth SET quantity = quantity - 1, elements = elements WHERE part_id = %s",
                [(row[0],) for row in move_rows],
            )
            cursor.executemany("UPDATE shop_component SET issued = issued + 1 WHERE id = %s", [(c,) for c in components])
            cursor.execute("UPDATE shop_orderoperation SET good = good + 1 WHERE order_id = %s AND row = 0", [order.pk])
            cursor.execute("UPDATE shop_workorder SET spent = spent + 1 WHERE id = %s", [order.pk])

    taken, written = medians(ours, bare, 15)
    ratio = taken / written
    words = f"a report with backflush of {lines} lines / its bare inserts and updates"
    return report(words, ratio, "at most 3", ratio <= 3, f"{taken * 1e3:.1f} and {written * 1e3:.1f} ms, {len(queries)} queries")


def _many(count: int, state: str) -> None:
    """So many orders with three operations and four components each, ten postings where they are closed."""
    from definition.models.parts import Part
    from django.utils.timezone import localdate, now
    from shop.models import Component, Entry, OrderOperation, Posting, WorkOrder
    from verbs.sheets.load_bundle import load_bundle

    _ready()
    Posting.objects.all().delete()
    Entry.objects.all().delete()
    WorkOrder.objects.filter(number__startswith="B-").delete()
    load_bundle(_product("BENCH-MANY", 4), "bench")
    part = Part.objects.get(number="BENCH-MANY")
    taken = list(Part.objects.filter(number__startswith="BENCH-MANY-"))
    causes = [
        {
            "cause": "yield",
            "at": "operation",
            "row": n,
            "where": "10 Turn",
            "amount": "1.250000",
            "terms": [{"label": "started", "value": "12.000000"}],
        }
        for n in range(6)
    ]
    said = {
        "format": 1,
        "good": "9",
        "expected": {"material": "90.000000"},
        "actual": {"material": "97.500000"},
        "by_cause": {"yield": "7.500000"},
        "causes": causes,
    }
    orders = WorkOrder.objects.bulk_create(
        WorkOrder(
            number=f"B-{n}",
            part=part,
            quantity=10,
            state=state,
            made_by="bench",
            wanted=localdate() + timedelta(days=n % 90),
            came_to=said if state == "closed" else None,
        )
        for n in range(count)
    )
    OrderOperation.objects.bulk_create(
        OrderOperation(order=o, row=n, sequence=10 * n + 10, planned=10, good=n) for o in orders for n in range(3)
    )
    Component.objects.bulk_create(Component(order=o, row=n, part=p, operation=0, required=10) for o in orders for n, p in enumerate(taken))
    if state == "closed":
        entries = Entry.objects.bulk_create(Entry(order=o, kind="report", at=now(), done_by="bench", posted_by="bench") for o in orders)
        Posting.objects.bulk_create(
            Posting(
                entry=e,
                order_id=e.order_id,
                kind="issue",
                component=0,
                part=taken[0],
                quantity=1,
                value=Decimal(1),
                elements={"material": "1"},
            )
            for e in entries
            for _ in range(10)
        )


def progress_against_bare_reads(count: int) -> bool:
    """The list of open orders as the screen gets it, against one query for the same values."""
    from django.db import connection
    from shop.reads import SHORT_SQL, shown_orders

    _many(count, "released")

    def bare() -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT o.id, o.number, p.number, p.description, p.unit, o.quantity, o.good, o.state, o.wanted, o.starts_at, o.ends_at, o.expected, o.spent, o.options, "
                "u.number, g.count, g.done, g.scrapped, s.count FROM shop_workorder o JOIN definition_part p ON p.id = o.part_id "
                "LEFT JOIN shop_workorder u ON u.id = o.parent_id LEFT JOIN (SELECT order_id, count(*), sum(least((good + scrapped) / nullif(planned, 0), 1)) AS done, "
                "sum(scrapped) AS scrapped FROM shop_orderoperation WHERE resource = 0 GROUP BY order_id) AS g ON g.order_id = o.id "
                f"LEFT JOIN ({SHORT_SQL}) AS s ON s.order_id = o.id WHERE o.state IN ('planned', 'released', 'running', 'done') ORDER BY o.wanted, o.id"
            )
            assert len(cursor.fetchall()) >= count

    ours, read = medians(lambda: shown_orders("open"), bare, 7)
    ratio = ours / read
    words = f"progress of {count:,} open orders / bare SQL of the same rows"
    return report(words, ratio, "at most 2", ratio <= 2, f"{ours * 1e3:.0f} and {read * 1e3:.0f} ms")


def variances_against_postings(count: int) -> bool:
    """What so many closed orders came to, by cause, against reading their postings."""
    from shop.models import Posting, WorkOrder

    _many(count, "closed")
    found = WorkOrder.objects.filter(number__startswith="B-")

    def ours() -> None:
        for said in found.values_list("came_to", flat=True):
            assert said is not None and sum((Decimal(c["amount"]) for c in said["causes"]), Decimal(0)) == Decimal("7.5")

    def read() -> None:
        assert len(list(Posting.objects.filter(order__in=found.values("pk")))) == 10 * count

    taken, postings = medians(ours, read, 7)
    ratio = taken / postings
    words = f"variances of {count:,} closed orders / reading their postings"
    return report(words, ratio, "at most 1", ratio <= 1, f"{taken * 1e3:.0f} and {postings * 1e3:.0f} ms")


def buildable_against_needs(lines: int) -> bool:
    """How many of a product of so many lines can be built, against thirty lists of its needs."""
    import numpy as np
    from tally_core.cost.answers import Basis, ask
    from tally_core.stated.bundle import read_bundle
    from tally_core.structure.buildable import buildable
    from tally_core.structure.needs import job_needs

    from bench.measure import DAY

    made = [{"number": f"M{n}", "kind": "made", "unit": "ea"} for n in range(lines // 10)]
    bought = [{"number": f"P{n}", "kind": "bought", "unit": "ea"} for n in range(lines // 4)]
    sheets = [
        {
            "part": f"M{n}",
            "status": "released",
            "lines": [
                {
                    "item": i + 1,
                    "part": f"P{(n * 7 + i * 31) % len(bought)}" if i else f"M{n * 3 % len(made)}" if n * 3 < len(made) and n else f"P{n}",
                    "quantity": "2",
                }
                for i in range(9)
            ],
        }
        for n in range(len(made))
    ]
    top = {"part": "TOP", "status": "released", "lines": [{"item": n + 1, "part": f"M{n}", "quantity": "1"} for n in range(len(made))]}
    document = {
        "format": "round-tally-bundle",
        "version": 1,
        "parts": [*made, *bought, {"number": "TOP", "kind": "made", "unit": "ea"}],
        "build_sheets": [*sheets, top],
    }
    question = ask(read_bundle(document), "TOP", Basis(DAY, Decimal(1)))
    free = np.full(len(question.structure.parts), 1e6)
    began = time.perf_counter()
    quantity = buildable(question.structure, question.top, free).quantity
    first = time.perf_counter() - began
    ours = median(lambda: buildable(question.structure, question.top, free), 5)
    thirty = median(lambda: [job_needs(question.structure, question.top, 100.0) for _ in range(30)], 5)
    words = f"buildable of a product of {lines:,} lines / thirty of its needs"
    more = f"{ours * 1e3:.0f} and {thirty * 1e3:.0f} ms, the first time {first * 1e3:.0f}; {quantity:,.0f} can be built"
    return report(words, ours / thirty, "at most 1", ours / thirty <= 1, more)
