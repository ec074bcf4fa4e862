"""Comparing three ways, against reading the sides that are compared."""

import json
import random
import time
from datetime import date
from typing import Any

from bench.measure import report

__all__ = ["compare_against_reading"]


def compare_against_reading(lines: int) -> bool:
    """So many lines on 500 sheets over 5,000 parts; a hundredth of them moved on each side."""
    from tally_core.handover.comparing import compare_definitions
    from tally_core.handover.reading import read_side

    agreed = _bundle(lines)
    contents = [json.dumps(agreed).encode(), *(json.dumps(_moved(agreed, seed)).encode() for seed in (1, 2))]
    before = read_side(contents[0])
    began = time.perf_counter()
    ours, theirs = read_side(contents[1]), read_side(contents[2])
    read = time.perf_counter() - began
    began = time.perf_counter()
    made = compare_definitions(before, ours, theirs, date(2026, 11, 26))
    took = time.perf_counter() - began
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
