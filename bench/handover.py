"""Comparing three ways, against reading the sides that are compared; handing over, against writing the same things bare."""

import json
import random
import tempfile
import threading
import time
from datetime import date
from pathlib import Path
from typing import Any

from bench.measure import report

__all__ = ["compare_against_reading", "handing_over_against_bare_writes"]


def compare_against_reading(lines: int) -> bool:
    """So many lines on 500 sheets over 5,000 parts; a hundredth of them moved on each side."""
    from tally_core.handover.comparing import compare_definitions
    from tally_core.handover.reading import read_side

    agreed = _bundle(lines)
    contents = [json.dumps(agreed).encode(), *(json.dumps(_moved(agreed, seed)).encode() for seed in (1, 2))]
    before = read_side(contents[0])
    # The best of three each: one look of the collector of garbage through all this is half of either.
    read = took = float("inf")
    for _ in range(3):
        began = time.perf_counter()
        ours, theirs = read_side(contents[1]), read_side(contents[2])
        read = min(read, time.perf_counter() - began)
        began = time.perf_counter()
        made = compare_definitions(before, ours, theirs, date(2026, 11, 26))
        took = min(took, time.perf_counter() - began)
    words = f"comparing {lines:,} lines three ways / reading both sides"
    more = f"{took:.2f} s and {read:.2f} s, {len(made.lines):,} lines do not agree"
    return report(words, took / read, "at most 0.3", took / read <= 0.3 and bool(made.lines), more)


def _bundle(lines: int) -> dict[str, Any]:
    r = random.Random(7)
    parts = [{"number": f"B{n}", "kind": "bought", "unit": "ea", "unit_cost": "1.25"} for n in range(4500)]
    parts += [{"number": f"M{n}", "kind": "made", "unit": "ea"} for n in range(500)]
    sheets = [
        {
            "part": f"M{n}",
            "lines": [
                {
                    "item": 10 * (at + 1),
                    "part": f"B{r.randrange(4500)}",
                    "quantity": str(r.randint(1, 20)),
                    "unit": "ea",
                    "scrap_percent": "2",
                }
                for at in range(lines // 500)
            ],
        }
        for n in range(500)
    ]
    return {"format": "round-tally-bundle", "version": 1, "parts": parts, "build_sheets": sheets}


def _moved(agreed: dict[str, Any], seed: int) -> dict[str, Any]:
    r = random.Random(seed)
    made = json.loads(json.dumps(agreed))
    for sheet in made["build_sheets"]:
        sheet["lines"][r.randrange(len(sheet["lines"]))]["quantity"] = "99"
    return made


def handing_over_against_bare_writes(changes: int) -> bool:
    """So many parts of one product whose texts moved here, handed over to the stand-in; against the stand-in writing the same things by itself."""
    from definition.models.parts import Part
    from django.conf import settings
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.db import connection, transaction
    from django.db.models import F
    from handover.actions.hand_over import KIND, run_hand_over
    from handover.actions.read_again import read_now
    from handover.looking import look_at
    from handover.models import Agreed, Handover
    from handover.planning import plan_of
    from handover.wording import service_named
    from jobs.work import ask_for
    from outside.books import open_book
    from verbs.sheets.load_bundle import load_bundle

    from standins.records import Server, own_database

    call_command("migrate", verbosity=0)
    load_bundle(_product(changes), "bench")
    Agreed.objects.filter(handover__top__number="BENCH-TOP").delete()
    Handover.objects.filter(top__number="BENCH-TOP").delete()
    s = connection.settings_dict
    server = Server(0, own_database(f"postgres://{s['USER']}:{s['PASSWORD']}@{s['HOST']}:{s['PORT']}/{s['NAME']}"))
    server.database.execute("TRUNCATE thing")
    threading.Thread(target=server.serve_forever, daemon=True).start()
    file = Path(tempfile.mkdtemp()) / "services.json"
    address = f"http://127.0.0.1:{server.server_port}/yard/"
    records = {"yard": {"words": "yard", "kind": "resources", "address": address, "key": "ledger-key"}}
    file.write_text(json.dumps({"format": 1, "records": records}))
    file.chmod(0o600)
    settings.SERVICES = str(file)
    user = User.objects.filter(username="bench").first() or User.objects.create_superuser("bench")
    top = Part.objects.get(number="BENCH-TOP")

    def handed_over() -> float:
        handover = Handover.objects.create(number=f"HO-{time.time_ns() % 10**12}", record="yard", top=top, opened_by="bench")
        read_now(handover)
        handover.refresh_from_db()
        plan = plan_of(handover, look_at(handover), open_book(service_named("yard")))
        with transaction.atomic():
            job = ask_for(KIND, handover.pk, "bench", "bench")
        began = time.perf_counter()
        run_hand_over.call(handover.pk, job.pk, user.pk, plan.digest)
        took = time.perf_counter() - began
        handover.refresh_from_db()
        assert handover.state == "done", handover.log
        return took

    handed_over()
    Part.objects.filter(number__startswith="BENCH-P").update(description="said anew", version=F("version") + 1)
    took = handed_over()
    things = server.things("yard", [("items", f"BENCH-P{n}") for n in range(changes)])
    writes = [{"kind": t["kind"], "key": t["key"], "match": t["version"], "body": t["body"] | {"text": "once more"}} for t in things]
    began = time.perf_counter()
    server.write("yard", writes, "bench")
    bare = time.perf_counter() - began
    server.shutdown()
    server.server_close()
    ratio = took / bare
    words = f"handing over {changes:,} changes / the record's own bare writes of them"
    return report(words, ratio, "at most 1.5", ratio <= 1.5, f"{took:.2f} s and {bare:.2f} s")


def _product(parts: int) -> dict[str, Any]:
    """A product of so many bought parts, a hundred on each made one."""
    made = [f"BENCH-M{n}" for n in range(parts // 100)]
    sheets = [
        {
            "part": "BENCH-TOP",
            "status": "released",
            "lines": [{"item": 10 * (n + 1), "part": m, "quantity": "1"} for n, m in enumerate(made)],
        }
    ]
    sheets += [
        {
            "part": m,
            "status": "released",
            "lines": [{"item": 10 * (n + 1), "part": f"BENCH-P{at * 100 + n}", "quantity": "2"} for n in range(100)],
        }
        for at, m in enumerate(made)
    ]
    known = [{"number": n, "kind": "made", "unit": "ea", "description": n} for n in ("BENCH-TOP", *made)]
    known += [{"number": f"BENCH-P{n}", "kind": "bought", "unit": "ea", "description": f"part {n}"} for n in range(parts)]
    return {"format": "round-tally-bundle", "version": 1, "currency": "EUR", "parts": known, "build_sheets": sheets}
