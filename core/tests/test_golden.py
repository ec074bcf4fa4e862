"""A bundle that was written with format 1 opens for ever, and costs what it cost.

``golden/bundle-1.json`` is the demo as the program wrote it on 26 November 2026, ``golden/bundle-1-costs.json`` what it answered
to the cost of every made part in it on 2 November. Neither is ever made anew: another format gets files of its own.
"""

import json
import unittest
from datetime import date
from pathlib import Path

from tally_core.cost.answers import Basis, ask, cost_answer
from tally_core.stated.bundle import parse_bundle, read_bundle, write_bundle

GOLDEN = Path(__file__).parent / "golden"


class Bundle(unittest.TestCase):
    def test_format_1_opens_and_costs_what_it_cost(self) -> None:
        definition = read_bundle(parse_bundle((GOLDEN / "bundle-1.json").read_bytes()))
        costs = json.loads((GOLDEN / "bundle-1-costs.json").read_text())
        self.assertEqual(len(costs), 15)
        for part, then in costs.items():
            now = cost_answer(ask(definition, part, Basis(date(2026, 11, 2))))
            # What did not exist then may stand in an answer of today, at nothing.
            for name in ("elements", "this_level", "lower_levels"):
                self.assertEqual({n: v for n, v in now[name].items() if float(v)}, {n: v for n, v in then[name].items() if float(v)})
            self.assertEqual(now["unit_cost"], then["unit_cost"], part)
        self.assertEqual(read_bundle(write_bundle(definition)), definition)
