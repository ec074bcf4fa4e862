"""What it costs to ask for one cost from outside: nearly all of it is loading the program."""

import os
import resource
import subprocess
import sys
from pathlib import Path

__all__ = ["cost_from_outside"]

_ROOT = Path(__file__).resolve().parent.parent
_BARE = """
import os, django, numpy, psycopg, scipy.sparse
with psycopg.connect(os.environ["DATABASE_URL"]) as c:
    c.execute("SELECT count(*) FROM definition_part").fetchall()
"""


def _seconds(command: list[str], times: int = 7) -> float:
    """Processor time of a command, the least of some runs."""
    taken = []
    environment = os.environ | {"DJANGO_SETTINGS_MODULE": "tally_site.lean"}
    for _ in range(times):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run(command, cwd=_ROOT, env=environment, stdout=subprocess.DEVNULL, check=True)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        taken.append(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    return min(taken)


def cost_from_outside(part: str) -> bool:
    """The command behind ``./tally cost``, against loading the libraries it cannot do without and one bare query."""
    ours = _seconds([sys.executable, "server/manage.py", "cost", part, "--as-of", "2026-06-15", "--json"])
    bare = _seconds([sys.executable, "-c", _BARE])
    print(
        f"{'holds' if ours / bare <= 2 else 'MISSES'}  the cost of one part asked from outside / loading its libraries and a bare query, "
        f"processor time: {ours / bare:.2f} (at most 2); {ours:.2f} s and {bare:.2f} s",
        flush=True,
    )
    return ours / bare <= 2
