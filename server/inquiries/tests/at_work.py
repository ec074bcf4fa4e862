"""What the tests of inquiries share: a list, our parts, and hands that bring, decide and make parts."""

from typing import Any

from django.test import TestCase
from testing import Api, load, workbook

LIST = [
    ["Kestrel Piers, quotation"],
    ["Assembly", "QP-7", "Title", "Pier light"],
    [],
    ["Pos", "Part No.", "Designation", "Manufacturer / MPN", "Qty", "Ref Des"],
    [1, "K-100", "Resistor 10k 1% 0603", "Nordry / NR-0603-10K", 2, "R1, R2"],
    [2, "K-101", "Capacitor 100 nF 25 V X7R 0603", "", 1, "C1"],
    [3, "K-102", "Housing, moulded", "", 1, ""],
]


def stock() -> dict[str, Any]:
    """Our own parts: what the list's lines may be."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "parts": [
            {
                "number": "RES-1",
                "kind": "bought",
                "unit": "ea",
                "description": "Resistor 10 kΩ 1 % 0.1 W 0603",
                "maker_numbers": [{"maker": "Nordry", "number": "NR0603-10K"}],
            },
            {"number": "CAP-1", "kind": "bought", "unit": "ea", "description": "Capacitor 100 nF 50 V X7R 0603"},
            {"number": "CAP-2", "kind": "bought", "unit": "ea", "description": "Capacitor 100 nF 25 V X7R 0805"},
        ],
    }


class InquiryCase(TestCase):
    """An inquiry of a customer, with what its tests do again and again."""

    def setUp(self) -> None:
        load(stock())
        self.api = Api("engineer")
        status, self.inquiry = self.api.post("/inquiries", {"title": "Pier lights", "customer": "Kestrel Piers", "wanted_by": "2026-12-10"})
        self.assertEqual(status, 200, self.inquiry)
        self.at = f"/inquiries/{self.inquiry['id']}"

    def bring(self, name: str = "list.xlsx", rows: list[list[Any]] | bytes = LIST) -> dict[str, Any]:
        content = rows if isinstance(rows, bytes) else workbook(rows)
        status, answer = self.api.upload(name, content, f"{self.at}/files")
        self.assertEqual(status, 200, answer)
        return answer

    def lines(self, api: Api | None = None, since: int = 0) -> dict[str, dict[str, Any]]:
        """The lines by their number."""
        table = (api or self.api).get(f"{self.at}/lines", since=since)[1]["table"]
        rows = [dict(table["same"]) | {n: c[at] for n, c in table["each"].items()} for at in range(table["count"])]
        return {r["part"] or f"row {r['row']}": r for r in rows}

    def decide(self, number: str, verb: str, part: str = "", api: Api | None = None, seen: int | None = None, **more: Any) -> Any:
        line = self.lines()[number]
        body = [{"line": line["id"], "seen": line["stamp"] if seen is None else seen, "verb": verb, "part": part} | more]
        return (api or self.api).post(f"{self.at}/decisions", body)

    def decide_all(self) -> None:
        self.decide("K-100", "take", "RES-1")
        self.decide("K-101", "take", "CAP-1")
        new = [self.lines()[n] for n in ("QP-7", "K-102")]
        status, answer = self.api.post(f"{self.at}/parts", [{"line": x["id"], "seen": x["stamp"]} for x in new])
        self.assertEqual(status, 200, answer)
