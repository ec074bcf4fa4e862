"""What the tests of buying share: lamps to build, and a buyer who plans for them."""

import json
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.test import TestCase, override_settings
from django.utils.timezone import localdate
from outside.tests.standing import running
from testing import Api, load

from standins.suppliers import Server

__all__ = ["SCREWS", "Lamps", "day", "lamps", "screw_services"]

TODAY = localdate()
_SHELF = {"currency": "EUR", "calls_a_minute": 1000, "accounts": {"k": "1"}}
#: What two stand-ins ask for the screws of the lamps.
SCREWS: dict[str, Any] = {
    "holm": _SHELF | {"name": "Holm", "kind": "items", "items": {"N-5": ["Nordry", "H5", "1=0.20 500=0.11", 1, 0, 100, 9000, 5]}},
    "fathom": _SHELF | {"name": "Fathom", "kind": "quotation", "items": {"N-5": ["Nordry", "F5", "100=14 1000=9", 100, 100, 100, 9000, 3]}},
}


@contextmanager
def screw_services(server: Server) -> Iterator[str]:
    """Have stand-ins of ``SCREWS`` answer, and a feed of rates, as the services of this installation."""
    with running(server) as at:
        file = Path(tempfile.mkdtemp()) / "services.json"
        suppliers = {
            name: {"words": f"{name} prices", "kind": shelf["kind"], "address": f"{at}{name}/", "key": "k"}
            for name, shelf in SCREWS.items()
        }
        rates = {"words": "feed", "address": at, "key": "very-secret"}
        file.write_text(json.dumps({"format": 1, "suppliers": suppliers, "rates": rates}))
        os.chmod(file, 0o600)
        with override_settings(SERVICES=str(file)):
            yield at


def day(days: int) -> str:
    return (TODAY + timedelta(days=days)).isoformat()


def lamps(labor: bool = False) -> dict[str, Any]:
    """LAMP takes 4 screws (5 % scrap), half a metre of tube and a made STEM, which takes a screw; BOX takes 2 screws."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "work_centers": [{"code": "BENCH", "labor_rate": "60"}],
        "parts": [
            {
                "number": "SCR",
                "kind": "bought",
                "unit": "ea",
                "description": "Screw",
                "maker_numbers": [{"maker": "Nordry", "number": "N-5"}],
            },
            {"number": "TUBE", "kind": "bought", "unit": "m", "description": "Tube", "buying_unit": "bar", "stock_per_buying_unit": "3"},
            {"number": "GLASS", "kind": "bought", "unit": "ea", "description": "Glass"},
            {"number": "STEM", "kind": "made", "unit": "ea", "costing_lot": "10"},
            {"number": "LAMP", "kind": "made", "unit": "ea", "costing_lot": "10"},
            {"number": "BOX", "kind": "made", "unit": "ea", "costing_lot": "10"},
        ],
        "build_sheets": [
            {
                "part": "LAMP",
                "status": "released",
                "lines": [
                    {"item": 10, "part": "SCR", "quantity": "4", "scrap_percent": "5"},
                    {"item": 20, "part": "TUBE", "quantity": "0.5"},
                    {"item": 30, "part": "STEM", "quantity": "1"},
                    {"item": 40, "part": "GLASS", "quantity": "1", "customer_supplied": True},
                ],
                "operations": [{"sequence": 10, "name": "Fit", "work_center": "BENCH", "setup_minutes": "30", "run_minutes": "1"}]
                if labor
                else [],
            },
            {"part": "STEM", "status": "released", "lines": [{"item": 10, "part": "SCR", "quantity": "1"}]},
            {"part": "BOX", "status": "released", "lines": [{"item": 10, "part": "SCR", "quantity": "2"}]},
        ],
    }


class Lamps(TestCase):
    """Lamps to build, and a buyer who plans for them."""

    #: Whether a lamp takes work: half an hour of set-up, a minute each.
    LABOR = False

    def setUp(self) -> None:
        load(lamps(self.LABOR))
        self.buyer = Api("buyer")

    def offer(self, part: str, supplier: str, breaks: list[list[str]], **more: str) -> int:
        status, answer = self.buyer.post("/buying/offers", {"part": part, "supplier": supplier, "breaks": breaks, **more})
        self.assertEqual(status, 200, answer)
        return answer["id"]

    def terms(self, supplier: str, **terms: Any) -> None:
        code = next(p["code"] for p in self.buyer.get("/partners")[1] if p["name"] == supplier)
        version = self.buyer.get("/buying/terms", code=code)[1]["version"]
        status, answer = self.buyer.send("PUT", f"/buying/terms?code={code}", terms | {"version": version})
        self.assertEqual(status, 200, answer)

    def plan(self, *builds: tuple, **limits: Any) -> dict[str, Any]:
        rows = [dict(zip(("part", "quantity", "by"), b, strict=False)) for b in builds or [("LAMP", "100")]]
        status, answer = self.buyer.post("/buying/plans", {"title": "For spring", "builds": rows, "limits": limits})
        self.assertEqual(status, 200, answer)
        return self.read(answer["id"])

    def read(self, plan_id: int) -> dict[str, Any]:
        answer = self.buyer.get(f"/buying/plans/{plan_id}")[1]
        self.assertEqual(answer["failed"], "")
        return answer | {"needs": {n["part"]: n for n in answer["needs"]}}

    def need(self, plan: dict[str, Any], part: str) -> dict[str, Any]:
        return self.buyer.get(f"/buying/needs/{plan['needs'][part]['id']}")[1]
