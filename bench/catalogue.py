"""A made-up catalogue from a fixed seed, written straight into the database."""

import uuid

import numpy as np
from django.db import connection

__all__ = ["COMMON", "LINES", "PARTS", "PRODUCT_MADE", "TOP", "TREE", "make_catalogue"]

PARTS, LINES, LEVELS = 200_000, 1_000_000, 12
#: The products that the single-product figures are taken on: 1,000 made parts of ten lines each.
TOP, TREE, PRODUCT_MADE, PRODUCT_LINES = "BENCH-TOP", "BENCH-TREE", 1_000, 10_000
#: A bought part that stands on five thousand sheets.
COMMON, COMMON_SHEETS = "BENCH-COMMON", 5_000
_SEED = 20261128
_FIRST_DAY = "2026-01-01"


def _product(random: np.random.Generator, uses: float) -> tuple[list[int], list[int]]:
    """Lines of one product: made rows from 0, bought rows from PRODUCT_MADE; a made part is used ``uses`` times."""
    below: list[list[int]] = [[] for _ in range(PRODUCT_MADE)]
    depth = [0] * PRODUCT_MADE
    for made in range(1, PRODUCT_MADE):
        # Parents near by keep the tree deep.
        while True:
            above = int(random.integers(max(0, made // 3 - 40), max(1, made - made // 3)))
            if depth[above] < LEVELS - 2 and len(below[above]) < 9:
                break
        below[above].append(made)
        depth[made] = depth[above] + 1
    for made in range(1, PRODUCT_MADE):
        for _ in range(int(random.poisson(uses - 1))):
            other = int(random.integers(0, made))
            # Only upwards, so that no part comes to contain itself.
            if depth[other] < depth[made] and len(below[other]) < 9 and made not in below[other]:
                below[other].append(made)
    parent = [made for made in range(PRODUCT_MADE) for _ in range(10)]
    child = [i for takes in below for i in takes + random.integers(PRODUCT_MADE, 5_000, 10 - len(takes)).tolist()]
    return parent, child


def _edges() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Parent and child rows of every line, and bool over parts: made. Parents stand before children."""
    random = np.random.default_rng(_SEED)
    # Two products over shared bought parts: in the first a made part stands on three sheets on average, as over the
    # whole catalogue; in the second on one.
    parent, child = [], []
    for first, uses in ((0, 3.0), (PRODUCT_MADE, 1.0)):
        p, c = _product(random, uses)
        parent += [first + i for i in p]
        child += [first + i if i < PRODUCT_MADE else i + PRODUCT_MADE for i in c]
    # The rest: made parts on eleven levels, each taking ten parts of deeper levels; the last level is bought.
    rest = LINES - 2 * PRODUCT_LINES
    made_rest = rest // 10
    start = 7_000
    rows = np.arange(start, start + made_rest)
    level = np.sort(random.integers(0, LEVELS - 1, made_rest))
    first_of = np.searchsorted(level, np.arange(LEVELS + 1))
    lowest, highest = start + made_rest, PARTS
    parents = np.repeat(rows, 10)
    # One line of each part leads to the next level, so that the catalogue is as deep as it says.
    children = random.integers(lowest, highest, len(parents))
    deeper = random.random(len(parents)) < 0.25
    deeper[::10] = True
    at = np.repeat(level, 10)
    low = start + first_of[at + 1]
    can = deeper & (at < LEVELS - 2) & (low < lowest)
    span = np.minimum(lowest - low, 9_000)
    children[can] = low[can] + (random.random(int(can.sum())) * span[can]).astype(np.int64)
    # The last line of evenly spaced parts takes the common one; it is never the line that leads deeper.
    children[9::10][:: made_rest // COMMON_SHEETS][:COMMON_SHEETS] = highest - 1
    made = np.zeros(PARTS, dtype=bool)
    made[: 2 * PRODUCT_MADE] = True
    made[rows] = True
    return np.concatenate((parent, parents)), np.concatenate((child, children)), made


def make_catalogue() -> None:
    """Fill the database, unless it holds this catalogue already."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*), (SELECT description FROM definition_part WHERE id = 1) FROM definition_line")
        if cursor.fetchone() == (LINES, f"Made part 0 of seed {_SEED}"):
            return
        cursor.execute(
            "TRUNCATE definition_line, definition_operation, definition_buildsheet, definition_part, definition_workcenter CASCADE"
        )
        random = np.random.default_rng(_SEED + 1)
        parent, child, made = _edges()
        order = np.argsort(parent, kind="stable")
        parent, child = parent[order], child[order]
        cost = np.round(random.uniform(0.01, 40, PARTS), 4)
        lots = random.choice([1, 10, 25, 100, 500], PARTS)
        with cursor.cursor.copy(
            "COPY definition_part (id, number, description, kind, unit, unit_cost, overhead_percent, costing_lot, whole_only, "
            "lead_time_days, lifecycle, version) FROM STDIN"
        ) as copy:
            for i in range(PARTS):
                number = {0: TOP, PRODUCT_MADE: TREE, PARTS - 1: COMMON}.get(i, f"B{i:06}")
                if made[i]:
                    copy.write_row(
                        (
                            i + 1,
                            number,
                            f"Made part {i} of seed {_SEED}",
                            "made",
                            "kg",
                            None,
                            0,
                            int(lots[i]),
                            False,
                            0,
                            "active",
                            1,
                        )
                    )
                else:
                    copy.write_row(
                        (
                            i + 1,
                            number,
                            f"Bought part {i}",
                            "bought",
                            "kg",
                            float(cost[i]),
                            3,
                            None,
                            False,
                            7,
                            "active",
                            1,
                        )
                    )
        with cursor.cursor.copy(
            "COPY definition_workcenter (id, code, name, labor_rate, setup_labor_rate, machine_rate, overhead_per_hour, "
            "overhead_percent_of_labor, efficiency_percent, stations, version) FROM STDIN"
        ) as copy:
            for i in range(8):
                copy.write_row((i + 1, f"WC{i}", f"Work center {i}", 30 + i, 32 + i, 10 * i, 4, 30, 95, 1, 1))
        rows = np.flatnonzero(made)
        with cursor.cursor.copy(
            "COPY definition_buildsheet (id, part_id, alternate, revision, status, effective_from, batch, version, changed_at, "
            "changed_by) FROM STDIN"
        ) as copy:
            for i in rows.tolist():
                copy.write_row((i + 1, i + 1, "A", "A", "released", _FIRST_DAY, 1, 1, _FIRST_DAY, ""))
        minutes = np.round(random.uniform(0.5, 20, len(rows)), 2)
        with cursor.cursor.copy(
            "COPY definition_operation (id, sheet_id, sequence, name, work_center_id, setup_minutes, run_minutes, run_basis, crew, "
            "setup_crew, yield_percent, queue_minutes, wait_minutes, move_minutes, after, outside, unit_price, "
            "minimum_charge, lead_days, lineage) FROM STDIN"
        ) as copy:
            for i, run in zip(rows.tolist(), minutes.tolist(), strict=True):
                key = uuid.UUID(int=i + 1)
                copy.write_row(
                    (
                        key,
                        i + 1,
                        10,
                        "Make",
                        i % 8 + 1,
                        15,
                        run,
                        "per_unit",
                        1,
                        1,
                        100,
                        0,
                        0,
                        0,
                        "{}",
                        False,
                        0,
                        0,
                        0,
                        key,
                    )
                )
        quantity = np.round(random.uniform(0.05, 0.4, LINES), 4)
        scrap = np.where(random.random(LINES) < 0.3, np.round(random.uniform(0.5, 8, LINES), 1), np.nan)
        with cursor.cursor.copy(
            "COPY definition_line (id, sheet_id, position, item, kind, part_id, quantity, unit, quantity_basis, scrap_percent, "
            "fixed_loss, operation_id, option_action, customer_supplied, not_fitted, reference_designators, text, lineage) FROM STDIN"
        ) as copy:
            columns = zip(parent.tolist(), child.tolist(), quantity.tolist(), scrap.tolist(), strict=True)
            for i, (p, c, q, s) in enumerate(columns):
                place, key = i % 10 + 1, uuid.UUID(int=(1 << 64) + i)
                copy.write_row((
                    key, p + 1, place, place * 10, "component", c + 1, q, "", "per_unit",
                    None if s != s else s, 0, uuid.UUID(int=p + 1), "add", False, False, "{}", "", key,
                ))  # fmt: skip
        # Keys were written by hand; what is made from now on counts on behind them.
        for table in ("definition_part", "definition_workcenter", "definition_buildsheet"):
            cursor.execute(f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), max(id)) FROM {table}")
        cursor.execute("ANALYZE")
