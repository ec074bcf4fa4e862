"""How figures are measured and told."""

import statistics
import time
from collections.abc import Callable
from datetime import date

__all__ = ["DAY", "median", "medians", "report"]


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


def report(words: str, ratio: float, bound: str, held: bool, more: str) -> bool:
    print(f"{'holds' if held else 'MISSES'}  {words}: {ratio:.2f} ({bound}); {more}", flush=True)
    return held
