"""How figures are measured and told."""

import json
import os
import re
import statistics
import time
from collections.abc import Callable
from datetime import date, datetime
from pathlib import Path
from typing import Any

__all__ = ["DAY", "beside", "keep", "median", "medians", "report"]


DAY = date(2026, 11, 24)


def median(work: Callable[[], object], times: int = 7) -> float:
    """Median seconds of several runs after one that does not count."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def medians(one: Callable[[], object], other: Callable[[], object], times: int) -> tuple[float, float]:
    """Median seconds of two things done in turn, so that a change of the machine's pace meets both."""
    both = []
    for _ in range(times + 1):
        start = time.perf_counter()
        one()
        middle = time.perf_counter()
        other()
        both.append((middle - start, time.perf_counter() - middle))
    return statistics.median(x for x, _ in both[1:]), statistics.median(x for _, x in both[1:])


#: What was measured in this run, in its order.
_TOLD: list[dict[str, Any]] = []


def report(words: str, ratio: float, bound: str, held: bool, more: str) -> bool:
    _TOLD.append({"what": words, "ratio": round(ratio, 4), "bound": bound, "held": held, "more": more})
    print(f"{'holds' if held else 'MISSES'}  {words}: {ratio:.2f} ({bound}); {more}", flush=True)
    return held


def keep() -> Path:
    """Keep what was measured as JSON, beside what earlier runs kept; answers where."""
    folder = Path(os.environ.get("TALLY_STATE", ".tally")) / "bench"
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / f"{datetime.now():%Y-%m-%d-%H%M%S}.json"
    file.write_text(json.dumps({"format": 1, "figures": _TOLD}, indent=1) + "\n")
    return file


def beside(earlier: Path) -> list[str]:
    """What was measured, each beside an earlier run's, by its words without the numbers in them: sizes may have changed a little."""
    before = {_alike(f["what"]): f["ratio"] for f in json.loads(earlier.read_text())["figures"]}
    rows = []
    for figure in _TOLD:
        was = before.get(_alike(figure["what"]))
        told = "was not measured" if was is None else f"was {was:.2f}, {(figure['ratio'] / was - 1) * 100:+.0f} %" if was else "was 0"
        rows.append(f"{figure['ratio']:8.2f}  {told:24}  {figure['what']}")
    return rows


def _alike(words: str) -> str:
    """
    >>> _alike("product of 10,000 lines / bare SQL")
    'product of # lines / bare SQL'
    """
    return re.sub(r"\d[\d,.]*", "#", words)
