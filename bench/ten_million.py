"""The roll-up of catalogues of one to ten million lines, all nine elements: time, memory, and by how much growth departs from linear."""

import json
import math
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import numpy as np

from bench.measure import DAY, report

__all__ = ["measure_copies", "roll_up_of_ten_million_lines"]

_COPIES = (1, 3, 10)
_MOST_GB = 8.0


def roll_up_of_ten_million_lines() -> list[bool]:
    """The catalogue once, three and ten times side by side, each in a process of its own."""
    told: list[dict[str, float]] = []
    for copies in _COPIES:
        done = subprocess.run([sys.executable, "-m", "bench", "--copies", str(copies)], capture_output=True, text=True, check=True)
        told.append(json.loads(done.stdout.splitlines()[-1]))
    first, last = told[0], told[-1]
    grown = math.log(last["lines"] / first["lines"])
    power = math.log(last["rolled"] / first["rolled"]) / grown
    each = "; ".join(
        f"{t['lines'] / 1e6:.0f} million lines: ordered in {t['built']:.1f} s, rolled up in {t['rolled']:.2f} s, {t['peak']:.1f} GB"
        for t in told
    )
    return [
        report("power by which the roll-up's time grows with the lines, 1 to 10 million", power, "at most 1.2", power <= 1.2, each),
        report(
            f"peak memory of ordering and rolling up {last['lines'] / 1e6:.0f} million lines / 8 GB",
            last["peak"] / _MOST_GB,
            "below 1",
            last["peak"] < _MOST_GB,
            f"{last['peak']:.1f} GB, reading them from the database included",
        ),
    ]


def measure_copies(copies: int) -> None:
    """Print, as JSON, what rolling up so many catalogues side by side took."""
    from loading.reads import load_catalogue
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.structure.structure import build_structure

    loaded = load_catalogue(DAY)
    count, operations = len(loaded.parts), len(loaded.operations)
    parts = _tiled(loaded.parts, copies, {})
    lines = _tiled(loaded.lines, copies, {"parent": count, "child": count, "operation": operations})
    work = _tiled(loaded.operations, copies, {"parent": count})
    del loaded
    start = time.perf_counter()
    s = build_structure(parts, lines, work, DAY)
    built = time.perf_counter() - start
    lots = standard_lots(s)
    taken = []
    for _ in range(4):
        start = time.perf_counter()
        costs = roll_up(s, lots)
        taken.append(time.perf_counter() - start)
    one = costs.unit[:count]
    for copy in range(1, copies):
        np.testing.assert_allclose(costs.unit[copy * count : (copy + 1) * count], one, rtol=1e-12)
    # Not what getrusage says: that is never less than the process had that began this one.
    peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    rolled = sorted(taken[1:])[1]
    print(json.dumps({"lines": len(lines), "built": built, "rolled": rolled, "peak": int(peak.split()[1]) * 1024 / 1e9}))


def _tiled(table: Any, copies: int, rows: dict[str, int]) -> Any:
    """A table several times behind itself; what names rows, in ``rows`` with how many there are, names those of its own copy."""
    from tally_core.structure.tables import columns_of

    found: dict[str, Any] = {}
    for name in columns_of(type(table)):
        column = np.tile(getattr(table, name), copies)
        if name in rows:
            moved = np.repeat(np.arange(copies, dtype=column.dtype) * rows[name], len(table))
            column = np.where(column < 0, column, column + moved)
        found[name] = column
    if hasattr(table, "numbers"):
        found["numbers"] = tuple(table.numbers) * copies
    return type(table)(**found)
