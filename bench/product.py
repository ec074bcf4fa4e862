"""What one asks of a product: its needs, its sheet, an edit of it, where a part is used; each against the database alone."""

from decimal import Decimal

from bench.measure import DAY, medians, report

__all__ = ["edit_against_roll_up", "needs_against_recursive_query", "sheet_against_bare_rows", "where_used_against_bare_rows"]

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
    a, b = medians(ours, theirs, 7)
    with connection.cursor() as cursor:
        cursor.execute(SHARING_SQL, [part.id, part.id + PRODUCT_MADE - 1])
        sheets = cursor.fetchone()[0]
        cursor.execute(SHARING_SQL, [1, PARTS])
        everywhere = cursor.fetchone()[0]
    return report(
        f"recursive query / needs of a product of 10,000 lines ({number}), loading included",
        b / a,
        f"at least {bound:g}" if bound else "for comparison",
        b / a >= bound,
        f"{b * 1000:.0f} ms and {a * 1000:.0f} ms; a made part stands on {sheets:.1f} sheets on average (over the whole "
        f"catalogue on {everywhere:.1f}), and the query walks {sum(n for *_, n in wanted):,} paths",
    )


def sheet_against_bare_rows() -> list[bool]:
    """The sheet screen's data, figures and JSON included, against fetching its rows; and how much of it is first needed, where all lines are the sheet's own."""
    import orjson
    from definition.models.sheets import BuildSheet
    from django.db import connection
    from loading.reads import part_named
    from readings import held
    from readings.sheet_view import sheet_view
    from tally_core.cost.answers import Basis

    from bench.catalogue import TOP, flat_sheet

    sheet = BuildSheet.objects.select_related("part").get(part=part_named(TOP))

    def ours() -> bytes:
        # Read and tallied anew, as where no process holds the product.
        held._held.clear()
        return orjson.dumps(sheet_view(sheet, Basis(DAY, Decimal(100))), option=orjson.OPT_SERIALIZE_NUMPY)

    def theirs() -> list[tuple]:
        with connection.cursor() as cursor:
            cursor.execute(ROWS_SQL, [TOP])
            return cursor.fetchall()

    rows, size = len(theirs()), len(ours())
    a, b = medians(ours, theirs, 7)
    first = len(orjson.dumps(sheet_view(sheet, Basis(DAY), own=True), option=orjson.OPT_SERIALIZE_NUMPY)) / 1e6
    with flat_sheet(10_000) as number:
        flat = BuildSheet.objects.select_related("part").get(part=part_named(number))
        widest = len(orjson.dumps(sheet_view(flat, Basis(DAY), own=True), option=orjson.OPT_SERIALIZE_NUMPY)) / 1e6
    return [
        report(
            f"data of the sheet screen / bare SQL for its {rows:,} rows",
            a / b,
            "at most 4",
            a / b <= 4,
            f"{a * 1000:.0f} ms and {b * 1000:.0f} ms; {size / 1e6:.1f} MB of JSON",
        ),
        report(
            "JSON that a sheet of 10,000 lines of its own needs first / 1.5 MB",
            widest / 1.5,
            "at most 1",
            widest <= 1.5,
            f"{widest:.2f} MB before it is packed; of the product of as many lines {first:.3f} MB, which stand on its first sheet",
        ),
    ]


def edit_against_roll_up(quantity: Decimal | None, bound: float, held: bool = True) -> bool:
    """One quantity of the top sheet changed, saved and recorded, until the answer with the new cost is written, against
    reading the product from the database and rolling it up.

    Args:
        held: in a process that holds the product; another one has to read it.
    """
    import orjson
    from accounts.access import make_groups
    from definition.models.sheets import BuildSheet
    from django.contrib.auth.models import Group, User
    from loading.reads import load_question, part_named
    from readings import held as holding
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
        if not held:
            holding._held.clear()
        edited, _ = edit_sheet(user, sheet.pk, now["version"], [change])
        figures = changed_by_edit(edited, basis, now["stamp"], only_lines=True)
        assert figures is not None, "the product must still be held"
        now.update(version=edited.version, stamp=figures["stamp"], size=len(orjson.dumps(figures, option=orjson.OPT_SERIALIZE_NUMPY)))
        return figures["parts"]["each"]["cost"][list(figures["parts"]["rows"]).index(top)]

    def theirs() -> float:
        _, question = load_question(part_named(TOP), basis, sheet)
        return float(tally(question)[0].unit[question.top].sum())

    for _ in range(2):
        assert abs(ours() - theirs()) < 1e-4, "the two must give the same cost"
    a, b = medians(ours, theirs, 15)
    drop_draft(user, sheet.pk, now["version"])
    return report(
        f"edit of one quantity in a product of {count:,} lines, {'standard lots' if quantity is None else f'a job of {quantity}'}, "
        f"{'' if held else 'in a process that does not hold it, '}"
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
    from testing import rows_of

    from bench.catalogue import COMMON

    part = part_named(COMMON)

    def ours() -> bytes:
        return orjson.dumps(where_used(part, Basis(DAY)), option=orjson.OPT_SERIALIZE_NUMPY)

    def theirs() -> list[tuple]:
        with connection.cursor() as cursor:
            cursor.execute(USERS_SQL, [COMMON])
            users = cursor.fetchall()
            cursor.execute(USES_SQL, [COMMON])
            return users + cursor.fetchall()

    found, rows = orjson.loads(ours()), theirs()
    direct, above = sum(use["takes"] == found["part"] for use in rows_of(found["uses"])), found["parts"]["count"]
    assert above + direct == len(rows), "the two must give the same rows"
    a, b = medians(ours, theirs, 5)
    return report(
        f"where-used of a part on {direct:,} sheets / bare SQL for its {len(rows):,} rows",
        a / b,
        "at most 2",
        a / b <= 2,
        f"{a * 1000:.0f} ms and {b * 1000:.0f} ms; {above:,} parts up to the tops, each with its quantity",
    )
