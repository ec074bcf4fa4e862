"""``./tally bench``: what the program must reach, each as a ratio of two things measured in the same run."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path

import django

from bench.asking import ask_within_limits
from bench.browser import first_rows_in_a_browser, typing_and_scrolling_in_a_browser
from bench.buying import net_needs_of_builds, plan_against_line_by_line
from bench.cuts import bars_to_the_proven_least, boards_against_their_area
from bench.handover import compare_against_reading, handing_over_against_bare_writes
from bench.measure import DAY, beside, keep, median, medians, report
from bench.models import assembly_against_the_kernel, balloons_against_sorting
from bench.pairing import neutral_reading, pairing_against_every_number, pairing_from_the_database
from bench.people import a_day_of_fifty
from bench.product import edit_against_roll_up, needs_against_recursive_query, sheet_against_bare_rows, where_used_against_bare_rows
from bench.reading import reading_apart
from bench.rounds import causes_against_roll_up, sensitivities_against_roll_up, tally_of_a_round_against_reading_and_copying
from bench.shop import buildable_against_needs, progress_against_bare_reads, report_against_bare_writes, variances_against_postings
from bench.slips import slips_found
from bench.start_up import cost_from_outside
from bench.ten_million import measure_copies, roll_up_of_ten_million_lines
from bench.times import critical_path_against_networkx, lead_times_against_roll_up
from bench.workbooks import workbook_against_bare_cells


def roll_up_against_triangular_solve() -> bool:
    """All parts, all nine elements, against solving the same triangular system."""
    import numpy as np
    from loading.reads import load_catalogue
    from scipy.sparse import coo_array, identity
    from scipy.sparse.linalg import spsolve_triangular
    from tally_core.basics.elements import ELEMENTS
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.structure.structure import build_structure

    loaded = load_catalogue(DAY)
    start = time.perf_counter()
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, DAY)
    built = time.perf_counter() - start
    lots = standard_lots(s)
    costs = roll_up(s, lots)
    count = len(s.parts)
    lot = lots[s.parent]
    use = coo_array((s.net_per_unit + s.net_per_lot / lot, (s.place[s.parent], s.place[s.child])), shape=(count, count))
    # Children stand below their parents in level order, so the system is upper triangular.
    matrix = (identity(count) - use).tocsc()
    right = np.ascontiguousarray(costs.this_level[s.order])
    solved = spsolve_triangular(matrix, right, lower=False)
    np.testing.assert_allclose(solved[s.place], costs.unit, rtol=1e-9, atol=1e-9)
    ours, theirs = medians(lambda: roll_up(s, lots), lambda: spsolve_triangular(matrix, right, lower=False), 5)
    return report(
        f"roll-up of {count:,} parts and {len(s.line):,} lines over {len(ELEMENTS)} elements / triangular solve",
        ours / theirs,
        "at most 0.6",
        ours / theirs <= 0.6,
        f"{ours:.3f} s and {theirs:.3f} s; applying the basis and ordering the parts before it took {built:.2f} s; "
        f"{len(s.level_start) - 1} levels",
    )


def checks_against_load() -> bool:
    """All checks over the whole catalogue, reading it included, against loading the catalogue for a roll-up."""
    from loading.reads import load_catalogue
    from readings.survey import load_survey
    from tally_core.checks.checks import check

    def ours() -> int:
        return len(check(load_survey().survey, DAY))

    count = ours()
    a, b = median(ours, 3), median(lambda: load_catalogue(DAY), 3)
    return report(
        "checks over the whole catalogue, reading included / loading the catalogue",
        a / b,
        "at most 3",
        a / b <= 3,
        f"{a:.2f} s and {b:.2f} s; {count:,} findings",
    )


def memory_of_roll_up() -> bool:
    """Peak memory of loading and rolling up the whole catalogue, in a process of its own."""
    done = subprocess.run([sys.executable, "-m", "bench", "--memory"], capture_output=True, text=True, check=True)
    peak = float(done.stdout.strip())
    return report(
        "peak memory of the whole-catalogue roll-up / 1.5 GB", peak / 1.5, "below 1", peak < 1.5, f"{peak:.2f} GB, loading included"
    )


def _memory() -> None:
    from loading.reads import load_catalogue
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.structure.structure import build_structure

    loaded = load_catalogue(DAY)
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, DAY)
    roll_up(s, standard_lots(s))
    # Not what getrusage says: that is never less than the process had that began this one.
    peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    print(int(peak.split()[1]) * 1024 / 1e9)


def _of_files() -> list[bool]:
    """What needs no catalogue."""
    return [
        reading_apart(100, 2.0),
        reading_apart(50_000, 1.1),
        neutral_reading(50_000, 6.0),
        pairing_against_every_number(200_000, 300_000, 2_000),
        slips_found(4_000),
        plan_against_line_by_line(2_000, 20, 4, 4),
        ask_within_limits(2_000, 6),
        assembly_against_the_kernel(2_000, 60),
        balloons_against_sorting(200),
        compare_against_reading(50_000),
        bars_to_the_proven_least(2_000, 60),
        boards_against_their_area(200, 25),
    ]


def _of_a_product() -> list[bool]:
    """What an engineer waits for, on the catalogue: for every day."""
    from bench.catalogue import TOP, TREE

    return [
        needs_against_recursive_query(TOP, 6),
        needs_against_recursive_query(TREE, 1),
        *sheet_against_bare_rows(),
        edit_against_roll_up(None, 0.25),
        edit_against_roll_up(None, 1, held=False),
        edit_against_roll_up(Decimal(100), 0),
        where_used_against_bare_rows(),
        net_needs_of_builds(TOP, 1, 40, 3.0),
        net_needs_of_builds(TOP, 5, 8, 0),
        cost_from_outside("B004000"),
    ]


def _of_the_catalogue() -> list[bool]:
    from bench.catalogue import TREE

    return [
        *_of_the_shop(),
        roll_up_against_triangular_solve(),
        *roll_up_of_ten_million_lines(),
        first_rows_in_a_browser(),
        *typing_and_scrolling_in_a_browser(10_000),
        checks_against_load(),
        lead_times_against_roll_up(),
        critical_path_against_networkx(250, 10),
        critical_path_against_networkx(5, 0),
        sensitivities_against_roll_up(),
        causes_against_roll_up(),
        tally_of_a_round_against_reading_and_copying(),
        memory_of_roll_up(),
        # Of the tree: the list of the shared product by levels would be longer than any workbook takes.
        workbook_against_bare_cells(TREE),
        pairing_from_the_database(300_000, 2_000),
        # Last: it changes the products that are asked before.
        handing_over_against_bare_writes(5_000),
    ]


def _of_the_shop() -> list[bool]:
    return [
        report_against_bare_writes(50),
        progress_against_bare_reads(5_000),
        variances_against_postings(1_000),
        buildable_against_needs(10_000),
    ]


def _catalogue() -> list[bool]:
    from django.core.management import call_command

    from bench.catalogue import make_catalogue

    call_command("migrate", verbosity=0)
    start = time.perf_counter()
    make_catalogue()
    print(f"catalogue ready after {time.perf_counter() - start:.0f} s", flush=True)
    return []


#: Parts of the bench by their word; without one it is all of it.
_PARTS: dict[str, Callable[[], list[bool]]] = {
    "--reading": _of_files,
    "--buying": lambda: [plan_against_line_by_line(2_000, 20, 4, 4), ask_within_limits(2_000, 6)],
    "--handover": lambda: [compare_against_reading(50_000), handing_over_against_bare_writes(5_000)],
    "--cuts": lambda: [bars_to_the_proven_least(2_000, 60), boards_against_their_area(200, 25)],
    "--models": lambda: [assembly_against_the_kernel(2_000, 60), balloons_against_sorting(200)],
    "--shop": _of_the_shop,
    "--people": lambda: _catalogue() or [a_day_of_fifty("--killed" in sys.argv)],
    "--browser": lambda: _catalogue() or [first_rows_in_a_browser(), *typing_and_scrolling_in_a_browser(10_000)],
    "--ten-million": lambda: _catalogue() or roll_up_of_ten_million_lines(),
    "--quick": lambda: _catalogue() or _of_a_product(),
}


def main() -> int:
    """``--quick`` for every day; ``--against FILE`` lays the figures beside those of an earlier run, which each run keeps."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tally_site.settings")
    django.setup()
    if "--memory" in sys.argv:
        _memory()
        return 0
    if "--copies" in sys.argv:
        measure_copies(int(sys.argv[sys.argv.index("--copies") + 1]))
        return 0
    part = next((measured for word, measured in _PARTS.items() if word in sys.argv), None)
    if part is not None:
        held = part()
    else:
        # Files first: they need no catalogue.
        held = _of_files()
        _catalogue()
        held += _of_a_product() + _of_the_catalogue()
    print(f"kept in {keep()}")
    if "--against" in sys.argv:
        print("\n".join(beside(Path(sys.argv[sys.argv.index("--against") + 1]))))
    return 0 if all(held) else 1


if __name__ == "__main__":
    sys.exit(main())
