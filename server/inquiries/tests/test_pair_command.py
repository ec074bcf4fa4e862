"""``./tally pair``: a sender's list against our parts, as a command."""

import io
import json
import sys
import tempfile
from unittest.mock import patch

from django.core.management import call_command
from django.test import TestCase
from testing import load


class Pairing(TestCase):
    def setUp(self) -> None:
        load(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "currency": "EUR",
                "parts": [
                    {
                        "number": "RES-1",
                        "kind": "bought",
                        "unit": "ea",
                        "description": "Resistor 4.7 kΩ, 1 %, 0603",
                        "on_hand": "5",
                        "maker_numbers": [{"maker": "Norwick", "number": "NR0603-4K7-F", "rank": 1}],
                    },
                    {"number": "RES-2", "kind": "bought", "unit": "ea", "description": "Resistor 4.7 kΩ, 1 %, 0603"},
                    {"number": "SCR-5", "kind": "bought", "unit": "ea", "description": "Screw M5 x 16", "material": "stainless A2"},
                    {"number": "FEE", "kind": "charge", "unit": "ea", "description": "Resistor 4.7 kΩ"},
                ],
            }
        )

    def pair(self, body: str, *words: str) -> tuple[int, str, str]:
        out, wrong, code = io.StringIO(), io.StringIO(), 0
        with tempfile.NamedTemporaryFile("w", suffix=".csv") as file, patch.object(sys, "stderr", wrong):
            file.write(body)
            file.flush()
            try:
                call_command("pair", file.name, *words, stdout=out)
            except SystemExit as stop:
                code = int(stop.code or 0)
        return code, out.getvalue(), wrong.getvalue()

    def test_each_line_with_its_proposals(self) -> None:
        body = "Pos;MPN;Description;Qty\n1;nr0603 4k7 f;Res 4k7 1% 0603;8\n2;X-1;Schraube M5x16 A4;4\n3;;Lens;1\n"
        code, said, _ = self.pair(body, "--json")
        self.assertEqual(code, 0)
        first, second, third = json.loads(said)["lines"]
        agreed = {"resistance": "agrees", "tolerance": "agrees", "case": "agrees"}
        self.assertEqual(first["row"], 2)
        self.assertEqual(
            first["proposals"],
            [
                {"part": "RES-1", "road": "exact", "certain": True, "verdicts": agreed},
                {"part": "RES-2", "road": "by values", "certain": False, "verdicts": agreed},
            ],
        )
        self.assertEqual(
            second["proposals"],
            [
                {
                    "part": "SCR-5",
                    "road": "by values",
                    "certain": False,
                    "verdicts": {"thread": "agrees", "length": "agrees", "material": "differs"},
                }
            ],
        )
        self.assertEqual(third, {"row": 4, "proposals": []})
        words = self.pair(body)[1]
        self.assertIn("RES-1                exact, certain  resistance agrees", words)
        self.assertIn("nothing of ours is like it", words)

    def test_who_sent_it_must_be_known_and_it_must_be_a_list(self) -> None:
        body = "Part;Qty\nRES-1;1\n"
        self.assertEqual(self.pair(body, "--sender", "NIX")[::2], (1, "partner NIX is not known\n"))
        code, _, wrong = self.pair("Dear all,\nno list today\n")
        self.assertEqual((code, wrong.count("\n")), (1, 1))
