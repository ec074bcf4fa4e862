"""A made-up catalogue from a fixed seed, written straight into the database."""

import uuid
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from definition.models.work_centers import WorkCenter
from django.db import connection
from django.db.models import NOT_PROVIDED, Model

__all__ = ["COMMON", "LINES", "PARTS", "PRODUCT_MADE", "TOP", "TREE", "flat_sheet", "make_catalogue"]

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


def _copy(cursor: Any, model: type[Model], names: str, rows: Iterable[tuple], **same: Any) -> None:
    """Rows straight into a table: the named columns, ``same`` in all of them, and what the model says of every other one."""
    stated = names.split()
    for field in model._meta.concrete_fields:
        column = str(field.column)
        filled = field.null or field.generated or field.db_default is not NOT_PROVIDED
        if not filled and column not in stated and column not in same:
            value = field.get_default()
            same[column] = "{}" if value == [] else value
    values = tuple(same.values())
    with cursor.cursor.copy(f"COPY {model._meta.db_table} ({', '.join([*stated, *same])}) FROM STDIN") as copy:
        for row in rows:
            copy.write_row((*row, *values))


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
        numbers = {0: TOP, PRODUCT_MADE: TREE, PARTS - 1: COMMON}
        each: Iterable[tuple] = (
            (i + 1, numbers.get(i, f"B{i:06}"), f"Made part {i} of seed {_SEED}", "made", None, 0, int(lots[i]), 0)
            if made[i]
            else (i + 1, numbers.get(i, f"B{i:06}"), f"Bought part {i}", "bought", float(cost[i]), 3, None, 7)
            for i in range(PARTS)
        )
        names = "id number description kind unit_cost overhead_percent costing_lot lead_time_days"
        _copy(cursor, Part, names, each, unit="kg", whole_only=False, lifecycle="active")
        each = ((i + 1, f"WC{i}", f"Work center {i}", 30 + i, 32 + i, 10 * i) for i in range(8))
        names = "id code name labor_rate setup_labor_rate machine_rate"
        _copy(cursor, WorkCenter, names, each, overhead_per_hour=4, overhead_percent_of_labor=30, efficiency_percent=95)
        rows = np.flatnonzero(made).tolist()
        each = ((i + 1, i + 1) for i in rows)
        _copy(cursor, BuildSheet, "id part_id", each, status="released", effective_from=_FIRST_DAY, changed_at=_FIRST_DAY)
        minutes = np.round(random.uniform(0.5, 20, len(rows)), 2).tolist()
        each = ((uuid.UUID(int=i + 1), i + 1, i % 8 + 1, m, uuid.UUID(int=i + 1)) for i, m in zip(rows, minutes, strict=True))
        _copy(cursor, Operation, "id sheet_id work_center_id run_minutes lineage", each, sequence=10, name="Make", setup_minutes=15)
        quantity = np.round(random.uniform(0.05, 0.4, LINES), 4)
        scrap = np.where(random.random(LINES) < 0.3, np.round(random.uniform(0.5, 8, LINES), 1), np.nan)
        each = (
            (
                uuid.UUID(int=(1 << 64) + i),
                p + 1,
                i % 10 + 1,
                (i % 10 + 1) * 10,
                c + 1,
                q,
                None if x != x else x,
                uuid.UUID(int=p + 1),
                uuid.UUID(int=(1 << 64) + i),
            )
            for i, (p, c, q, x) in enumerate(zip(parent.tolist(), child.tolist(), quantity.tolist(), scrap.tolist(), strict=True))
        )
        _copy(cursor, Line, "id sheet_id position item part_id quantity scrap_percent operation_id lineage", each)
        # Keys were written by hand; what is made from now on counts on behind them.
        for table in ("definition_part", "definition_workcenter", "definition_buildsheet"):
            cursor.execute(f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), max(id)) FROM {table}")
        cursor.execute("VACUUM ANALYZE")


@contextmanager
def flat_sheet(lines: int) -> Iterator[str]:
    """A part whose sheet takes so many bought parts itself, as long as one is within; answers its number."""
    number = "BENCH-FLAT"

    def drop() -> None:
        BuildSheet.objects.filter(part__number=number).delete()
        Part.objects.filter(number=number).delete()

    drop()
    part = Part.objects.create(number=number, kind="made", unit="ea", description="Everything in one list", costing_lot=1)
    sheet = BuildSheet.objects.create(part=part, status="released", effective_from=_FIRST_DAY)
    keys = Part.objects.filter(kind="bought").order_by("pk").values_list("pk", flat=True)[:lines]
    Line.objects.bulk_create(
        Line(sheet=sheet, position=n, item=n, part_id=key, quantity="0.25", lineage=uuid.uuid4()) for n, key in enumerate(keys, 1)
    )
    try:
        yield number
    finally:
        drop()
