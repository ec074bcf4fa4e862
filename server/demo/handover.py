"""HL-155 handed over in September to the stand-in of a system of record, and what both sides moved since. All of it is invented."""

import json
import os
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from definition.models.parts import Part
from django.conf import settings
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.utils.timezone import make_aware, now
from handover.actions.compare_every_night import compare_all
from handover.actions.hand_over import KIND, run_hand_over
from handover.actions.read_again import read_now
from handover.known_as import book_of
from handover.looking import look_at
from handover.models import Agreed, Handover
from handover.planning import plan_of
from jobs.work import ask_for
from verbs.parts.save_part import save_part

from standins.records import Server, own_database

__all__ = ["load_handover"]

_BOOK = "yard"
_PRODUCTION = "Ines Albu, production"


def load_handover() -> None:
    """Hand HL-155 over, in September; then three places move over there, and two parts here."""
    with _records() as server:
        engineer = User.objects.get(username="engineer")
        top = Part.objects.get(number="HL-155")
        handover = Handover.objects.create(number="HO-0001", record=_BOOK, top=top, opened_by=str(engineer))
        read_now(handover)
        handover.refresh_from_db()
        digest = plan_of(handover, look_at(handover), book_of(_BOOK)).digest
        with transaction.atomic():
            job = ask_for(KIND, handover.pk, f"handing over {handover.number}", str(engineer))
        run_hand_over.call(handover.pk, job.pk, engineer.pk, digest)
        handover.refresh_from_db()
        if handover.state != "done":
            raise RuntimeError(f"HL-155 could not be handed over: {handover.log[-1]['words']}")
        _in_september(handover)
        _they_move(server)
        compare_all()
    for number, material in (("LNS-155", "polycarbonate, clear, 3 mm"), ("CST-155", "aluminium, cast, shot-blasted")):
        save_part(engineer, {"material": material}, number, Part.objects.get(number=number).version)
        Part.history.filter(number=number, history_user=None).update(history_user=engineer)


@contextmanager
def _records() -> Iterator[Server]:
    """The stand-in, for as long as it is needed here; afterwards it is a process of its own."""
    s = connection.settings_dict
    server = Server(0, own_database(f"postgres://{s['USER']}:{s['PASSWORD']}@{s['HOST']}:{s['PORT']}/{s['NAME']}"))
    server.database.execute("TRUNCATE thing")
    threading.Thread(target=server.serve_forever, daemon=True).start()
    before = settings.SERVICES
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "services.json"
        address = f"http://127.0.0.1:{server.server_port}/{_BOOK}/"
        record = {"words": "The yard's book", "kind": "resources", "address": address, "key": "ledger-key"}
        file.write_text(json.dumps({"format": 1, "records": {_BOOK: record}}))
        os.chmod(file, 0o600)
        settings.SERVICES = str(file)
        try:
            yield server
        finally:
            settings.SERVICES = before
            server.shutdown()
            server.server_close()


def _in_september(handover: Handover) -> None:
    """It was then."""
    then = make_aware(datetime(now().year, 9, 14, 10, 20))
    if then > now():
        then = now() - timedelta(days=70)
    log = [entry | {"at": (then + timedelta(minutes=n)).isoformat()} for n, entry in enumerate(handover.log)]
    Handover.objects.filter(pk=handover.pk).update(opened_at=then - timedelta(minutes=8), read_at=then, ended_at=then, log=log)
    Agreed.objects.filter(handover=handover).update(at=then)


def _they_move(server: Server) -> None:
    def there(kind: str, key: str) -> dict[str, Any]:
        return server.things(_BOOK, [(kind, key)])[0]["body"]

    structure = there("structures", "HL-155|A")
    locker = next(row for row in structure["rows"] if row["item"] == "CMP-0455")
    locker["amount"] = "0.5"
    server.put(
        _BOOK, "items", "TAP-12", {"text": "Sealing tape, 12 mm", "supply": "purchased", "measure": "metre", "bin": "R4"}, _PRODUCTION
    )
    structure["rows"].append({"position": 900, "item": "TAP-12", "amount": "0.6", "measure": "metre", "sort": "takes", "step": 40})
    server.put(_BOOK, "structures", "HL-155|A", structure, _PRODUCTION)
    plan = there("plans", "HL-155|A")
    plan["steps"][2]["each"] = "5.8"
    server.put(_BOOK, "plans", "HL-155|A", plan, _PRODUCTION)
    server.put(_BOOK, "items", "LNS-155", there("items", "LNS-155") | {"stuff": "polycarbonate, UV-stable"}, _PRODUCTION)
    for code, text in (("LUB-07", "Sealant, clear, neutral cure"), ("LUB-09", "Grease for the thread")):
        server.put(
            _BOOK, "items", code, {"text": text, "supply": "purchased", "measure": "gram", "bin": "C2", "planner": "Albu"}, _PRODUCTION
        )
