"""``./tally bench``: what the program must reach, each as a ratio of two things measured in the same run."""

import os
import resource
import subprocess
import sys
import time
from decimal import Decimal

import django

from bench.asking import ask_within_limits
from bench.browser import first_rows_in_a_browser
from bench.buying import plan_against_line_by_line
from bench.cuts import bars_to_the_proven_least, boards_against_their_area
from bench.handover import compare_against_reading, handing_over_against_bare_writes
from bench.measure import DAY, median, medians, report
from bench.models import assembly_against_the_kernel, balloons_against_sorting
from bench.pairing import neutral_reading, pairing_against_every_number
from bench.reading import reading_apart
from bench.rounds import (
    causes_against_roll_up,
    sensitivities_against_roll_up,
    tally_of_a_round_against_reading_and_copying,
)
from bench.shop import (
    buildable_against_needs,
    progress_against_bare_reads,
    report_against_bare_writes,
    variances_against_postings,
)
from bench.start_up import cost_from_outside
from bench.times import critical_path_against_networkx, lead_times_against_roll_up

NEEDS_SQL = """
WITH RECURSIVE explode(part_id, quantity) AS (
    SELECT p.id, 100::float8 FROM definition_part p WHERE p.number = %s
    UNION ALL
    SELECT l.part_id, e.quantity * l.quantity::float8 * (1 + coalesce(l.scrap_percent, 0)::float8 / 100)
    FROM explode e
    JOIN definition_buildsheet s ON s.part_id = e.part_id AND s.status = 'released'
        AND (s.effective_from IS NULL OR s.effective_from <= %s) AND (s.effective_to IS NULL OR s.effective_to > %s)
    JOIN definition_line l ON l.sheet_id = s.id
)
SELECT part_id, sum(quantity), count(*) FROM explode GROUP BY part_id
"""
ROWS_SQL = """
WITH RECURSIVE reach(part_id) AS (
    SELECT p.id FROM definition_part p WHERE p.number = %s
    UNION
    SELECT l.part_id FROM reach r JOIN definition_buildsheet s ON s.part_id = r.part_id AND s.status = 'released'
    JOIN definition_line l ON l.sheet_id = s.id
)
SELECT l.id, l.sheet_id, l.position, l.item, l.kind, l.part_id, l.quantity, l.unit, l.quantity_basis, l.scrap_percent,
    l.yield_percent, l.fixed_loss, l.operation_id, l.option_id, l.option_action, l.customer_supplied, l.not_fitted,
    l.reference_designators, l.effective_from, l.effective_to, l.text, p.number, p.description, p.kind, p.unit, p.unit_cost
FROM reach r JOIN definition_buildsheet s ON s.part_id = r.part_id AND s.status = 'released'
JOIN definition_line l ON l.sheet_id = s.id JOIN definition_part p ON p.id = l.part_id
ORDER BY s.part_id, l.position
"""


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
        "at most 1.5",
        ours / theirs <= 1.5,
        f"{ours:.3f} s and {theirs:.3f} s; applying the basis and ordering the parts before it took {built:.2f} s; "
        f"{len(s.level_start) - 1} levels",
    )


SHARING_SQL = """
SELECT count(*)::float8 / count(DISTINCT l.part_id) FROM definition_line l
JOIN definition_buildsheet s ON s.id = l.sheet_id JOIN definition_part p ON p.id = l.part_id
WHERE p.kind = 'made' AND s.part_id BETWEEN %s AND %s
"""


def needs_against_recursive_query(number: str, bound: float) -> bool:
    """The needs of one product, loading included, against a recursive query."""
    from django.db import connection
    from loading.reads import load_question, part_named
    from tally_core.cost.answers import Basis
    from tally_core.structure.needs import job_needs

    from bench.catalogue import PARTS, PRODUCT_MADE

    part = part_named(number)

    def ours() -> dict[int, float]:
        loaded, question = load_question(part, Basis(DAY, Decimal(100)))
        needs = job_needs(question.structure, question.top, 100.0)
        return dict(zip(loaded.part_ids.tolist(), needs.gross.tolist(), strict=True))

    def theirs() -> list[tuple]:
        with connection.cursor() as cursor:
            cursor.execute(NEEDS_SQL, [number, DAY, DAY])
            return cursor.fetchall()

    found, wanted = ours(), theirs()
    assert len(found) == len(wanted)
    assert all(abs(found[i] - q) <= 1e-9 * abs(q) for i, q, _ in wanted), "the two must give the same figures"
    a, b = median(ours), median(theirs)
    with connection.cursor() as cursor:
        cursor.execute(SHARING_SQL, [part.id, part.id + PRODUCT_MADE - 1])
        sheets = cursor.fetchone()[0]
        cursor.execute(SHARING_SQL, [1, PARTS])
        everywhere = cursor.fetchone()[0]
    return report(
        "recursive query / needs of a product of 10,000 lines, loading included",
        b / a,
        f"at least {bound:g}" if bound else "for comparison",
        b / a >= bound,
        f"{b * 1000:.0f} ms and {a * 1000:.0f} ms; a made part stands on {sheets:.1f} sheets on average (over the whole "
        f"catalogue on {everywhere:.1f}), and the query walks {sum(n for *_, n in wanted):,} paths",
    )


def sheet_against_bare_rows() -> bool:
    """The sheet screen's data, figures and JSON included, against fetching its rows."""
    import orjson
    from definition.models.sheets import BuildSheet
    from django.db import connection
    from loading.reads import part_named
    from readings.sheet_view import sheet_view
    from tally_core.cost.answers import Basis

    from bench.catalogue import TOP

    sheet = BuildSheet.objects.select_related("part").get(part=part_named(TOP))

    def ours() -> bytes:
        return orjson.dumps(sheet_view(sheet, Basis(DAY, Decimal(100))), option=orjson.OPT_SERIALIZE_NUMPY)

    def theirs() -> list[tuple]:
        with connection.cursor() as cursor:
            cursor.execute(ROWS_SQL, [TOP])
            return cursor.fetchall()

    rows, size = len(theirs()), len(ours())
    a, b = median(ours), median(theirs)
    return report(
        f"data of the sheet screen / bare SQL for its {rows:,} rows",
        a / b,
        "at most 4",
        a / b <= 4,
        f"{a * 1000:.0f} ms and {b * 1000:.0f} ms; {size / 1e6:.1f} MB of JSON",
    )


def edit_against_roll_up(quantity: Decimal | None, bound: float) -> bool:
    """One quantity of the top sheet changed, saved and recorded, until the answer with the new cost is written, against
    reading the product from the database and rolling it up."""
    import orjson
    from accounts.access import make_groups
    from definition.models.sheets import BuildSheet
    from django.contrib.auth.models import Group, User
    from loading.reads import load_question, part_named
    from readings.after_edit import changed_by_edit
    from readings.sheet_view import sheet_view
    from tally_core.cost.answers import Basis, tally
    from verbs.sheets.drop_draft import drop_draft
    from verbs.sheets.edit_sheet import edit_sheet
    from verbs.sheets.open_sheet import open_sheet

    from bench.catalogue import TOP

    make_groups()
    user, _ = User.objects.get_or_create(username="bench")
    user.groups.add(Group.objects.get(name="engineer"))
    basis = Basis(DAY, quantity)
    sheet = BuildSheet.objects.select_related("part").get(pk=open_sheet(user, TOP).pk)
    line = sheet.lines.filter(part__kind="made")[0]
    view = sheet_view(sheet, basis)
    top, count = view["top"], view["lines"]["count"]
    now = {"version": sheet.version, "stamp": view["stamp"], "quantity": 1, "size": 0}

    def ours() -> float:
        now["quantity"] = 3 - now["quantity"]
        change = {"table": "line", "id": line.id, "before": {}, "after": {"quantity": str(now["quantity"])}}
        edited, _ = edit_sheet(user, sheet.pk, now["version"], [change])
        figures = changed_by_edit(edited, basis, now["stamp"])
        assert figures is not None, "the product must still be held"
        now.update(
            version=edited.version,
            stamp=figures["stamp"],
            size=len(orjson.dumps(figures, option=orjson.OPT_SERIALIZE_NUMPY)),
        )
        return figures["parts"]["each"]["cost"][figures["parts"]["rows"].index(top)]

    def theirs() -> float:
        _, question = load_question(part_named(TOP), basis, sheet)
        return float(tally(question)[0].unit[question.top].sum())

    for _ in range(2):
        assert abs(ours() - theirs()) < 1e-4, "the two must give the same cost"
    a, b = medians(ours, theirs, 15)
    drop_draft(user, sheet.pk, now["version"])
    return report(
        f"edit of one quantity in a product of {count:,} lines, {'standard lots' if quantity is None else f'a job of {quantity}'}, "
        "saved, until the new cost is in the answer / its roll-up from the database",
        a / b,
        f"at most {bound:g}" if bound else "for comparison",
        not bound or a / b <= bound,
        f"{a * 1000:.0f} ms and {b * 1000:.0f} ms; {now['size'] / 1e3:.0f} kB of JSON",
    )


USERS_SQL = """
WITH RECURSIVE up(part_id) AS (
    SELECT p.id FROM definition_part p WHERE p.number = %s
    UNION
    SELECT s.part_id FROM up u JOIN definition_line l ON l.part_id = u.part_id
    JOIN definition_buildsheet s ON s.id = l.sheet_id AND s.status = 'released'
)
SELECT p.id, p.number, p.description, p.unit, s.id, s.alternate, s.revision
FROM up u JOIN definition_part p ON p.id = u.part_id LEFT JOIN definition_buildsheet s ON s.part_id = p.id AND s.status = 'released'
"""
USES_SQL = """
SELECT l.id::text, s.part_id, l.item, l.quantity::text, l.unit, s.alternate, s.revision
FROM definition_line l JOIN definition_buildsheet s ON s.id = l.sheet_id AND s.status = 'released'
WHERE l.part_id = (SELECT id FROM definition_part WHERE number = %s)
"""


def where_used_against_bare_rows() -> bool:
    """Where a part that stands on 5,000 sheets is used, up to the tops, against the SQL that reads those rows."""
    import orjson
    from django.db import connection
    from loading.reads import part_named
    from readings.where_used import where_used
    from tally_core.cost.answers import Basis

    from bench.catalogue import COMMON

    part = part_named(COMMON)

    def ours() -> bytes:
        return orjson.dumps(where_used(part, Basis(DAY)))

    def theirs() -> list[tuple]:
        with connection.cursor() as cursor:
            cursor.execute(USERS_SQL, [COMMON])
            users = cursor.fetchall()
            cursor.execute(USES_SQL, [COMMON])
            return users + cursor.fetchall()

    found, rows = orjson.loads(ours()), theirs()
    direct = sum(use["takes"] == found["part"] for use in found["uses"])
    assert len(found["parts"]) + direct == len(rows), "the two must give the same rows"
    a, b = median(ours, 5), median(theirs, 5)
    return report(
        f"where-used of a part on {direct:,} sheets / bare SQL for its {len(rows):,} rows",
        a / b,
        "at most 2.5",
        a / b <= 2.5,
        f"{a * 1000:.0f} ms and {b * 1000:.0f} ms; {len(found['parts']):,} parts up to the tops, each with its quantity",
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
        "peak memory of the whole-catalogue roll-up / 1.5 GB",
        peak / 1.5,
        "below 1",
        peak < 1.5,
        f"{peak:.2f} GB, loading included",
    )


def _memory() -> None:
    from loading.reads import load_catalogue
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.structure.structure import build_structure

    loaded = load_catalogue(DAY)
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, DAY)
    roll_up(s, standard_lots(s))
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 / 1e9)


def main() -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tally_site.settings")
    django.setup()
    if "--memory" in sys.argv:
        _memory()
        return 0
    if "--buying" in sys.argv:
        bought = [plan_against_line_by_line(2_000, 20, 4, 4), ask_within_limits(2_000, 6)]
        return 0 if all(bought) else 1
    if "--handover" in sys.argv:
        return 0 if all([compare_against_reading(50_000), handing_over_against_bare_writes(5_000)]) else 1
    if "--cuts" in sys.argv:
        return 0 if all([bars_to_the_proven_least(2_000, 60), boards_against_their_area(200, 25)]) else 1
    if "--models" in sys.argv:
        return 0 if all([assembly_against_the_kernel(2_000, 60), balloons_against_sorting(200)]) else 1
    if "--shop" in sys.argv:
        worked = [report_against_bare_writes(50), progress_against_bare_reads(5_000), variances_against_postings(1_000)]
        return 0 if all([*worked, buildable_against_needs(10_000)]) else 1
    # Files need no catalogue: "./tally bench --reading" measures them alone.
    read = [reading_apart(100, 2.0), reading_apart(50_000, 1.1), neutral_reading(50_000, 6.0)]
    read.append(pairing_against_every_number(200_000, 300_000, 2_000))
    read += [plan_against_line_by_line(2_000, 20, 4, 4), ask_within_limits(2_000, 6)]
    read += [assembly_against_the_kernel(2_000, 60), balloons_against_sorting(200)]
    read += [compare_against_reading(50_000), bars_to_the_proven_least(2_000, 60), boards_against_their_area(200, 25)]
    if "--reading" in sys.argv:
        return 0 if all(read) else 1
    from django.core.management import call_command

    from bench.catalogue import TOP, TREE, make_catalogue

    call_command("migrate", verbosity=0)
    start = time.perf_counter()
    make_catalogue()
    print(f"catalogue ready after {time.perf_counter() - start:.0f} s", flush=True)
    held = [
        *read,
        handing_over_against_bare_writes(5_000),
        report_against_bare_writes(50),
        progress_against_bare_reads(5_000),
        variances_against_postings(1_000),
        buildable_against_needs(10_000),
        roll_up_against_triangular_solve(),
        needs_against_recursive_query(TOP, 3),
        needs_against_recursive_query(TREE, 0),
        sheet_against_bare_rows(),
        first_rows_in_a_browser(),
        edit_against_roll_up(None, 0.5),
        edit_against_roll_up(Decimal(100), 0),
        where_used_against_bare_rows(),
        checks_against_load(),
        lead_times_against_roll_up(),
        critical_path_against_networkx(250, 10),
        critical_path_against_networkx(5, 0),
        sensitivities_against_roll_up(),
        causes_against_roll_up(),
        tally_of_a_round_against_reading_and_copying(),
        memory_of_roll_up(),
        cost_from_outside("B004000"),
    ]
    return 0 if all(held) else 1


if __name__ == "__main__":
    sys.exit(main())
