"""What PostgreSQL packs of a row when it is written is what the row says, however it came to be so."""

import importlib
import uuid
from datetime import date

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation, Option
from definition.models.work_centers import WorkCenter
from django.db import connection
from django.test import TestCase
from tally_core.structure.tables import NO_END, NO_START

from loading.columns import fetch_columns, wire_cursor
from loading.loaded import rows_named
from loading.table_columns import LINES, OPERATIONS, PARTS, in_list_order

_LAYOUTS = (PARTS, LINES, OPERATIONS)
_LAST = "ffffffff-ffff-ffff-ffff-ffffffffffff"


def _fill() -> None:
    """Rows with something in every column that is packed, and rows with as little as can be."""
    center = WorkCenter.objects.create(code="W", name="Work")
    option = Option.objects.create(code="O", name="an option")
    made = Part.objects.create(
        number="A", kind="made", unit="m2", whole_only=True, given_cost="1.000000001", overhead_percent="12.5", costing_lot="99999999.125"
    )
    bought = Part.objects.create(
        number="B", kind="bought", unit="d", unit_cost="0.1", markup_percent="-99.9", prices=[{"day": "2026-01-01", "unit_cost": "2"}]
    )
    Part.objects.create(number="C", kind="charge", unit="ea")
    sheet = BuildSheet.objects.create(part=made)
    operation = Operation.objects.create(
        sheet=sheet,
        sequence=10,
        work_center=center,
        run_basis="per_cycle",
        cycle_quantity="3.25",
        crew="0.5",
        piece_rate="0.01",
        yield_percent="98.7",
    )
    Operation.objects.create(sheet=sheet, sequence=20, outside=True, unit_price="4.5", minimum_charge="30")
    Operation.objects.create(sheet=sheet, sequence=30, outside=False, unit_price="4.5")
    full = dict(
        quantity="0.333333333", unit="mm2", quantity_basis="per_lot", scrap_percent="3.3", yield_percent="97", fixed_loss="0.25", operation=operation,
        option=option, option_action="remove", customer_supplied=True, not_fitted=True, effective_from="2026-02-28", effective_to="9999-12-31", item=7,
    )  # fmt: skip
    Line.objects.create(sheet=sheet, position=1.5, part=bought, kind="byproduct", **full)
    Line.objects.create(id=_LAST, sheet=sheet, position=0.5, kind="text", text="only words")
    Line.objects.create(sheet=sheet, position=0.25, part=bought)


class Packed(TestCase):
    def assert_as_asked(self) -> None:
        """Column by column what is packed is what the same expressions say of the row now."""
        for layout in _LAYOUTS:
            packed = fetch_columns({}, f"FROM {layout.table} ORDER BY id", [], layout)
            asked = fetch_columns(layout.columns, f"FROM {layout.table} ORDER BY id", [])
            self.assertEqual(list(packed), list(layout.columns))
            self.assertGreater(len(packed["id"]), 2)
            for name, column in asked.items():
                np.testing.assert_array_equal(packed[name], column, f"{layout.table}.{name}")

    def test_what_is_packed_is_what_was_written(self) -> None:
        _fill()
        self.assert_as_asked()
        lines = fetch_columns({}, "FROM definition_line", [], LINES)
        at = {position: row for row, position in enumerate(lines["position"].tolist())}
        full, words, plain = at[1.5], at[0.5], at[0.25]
        # 0.333333333 and 97 as the nearest numbers in binary; the days as Python counts them.
        self.assertEqual((lines["quantity"][full], lines["yield_percent"][full]), (0.333333333, 97.0))
        self.assertEqual(lines["first_day"].tolist()[full], date(2026, 2, 28).toordinal())
        self.assertEqual(lines["last_day"].tolist()[full], date.max.toordinal())
        self.assertEqual((lines["first_day"].tolist()[plain], lines["last_day"].tolist()[plain]), (NO_START, NO_END))
        self.assertEqual((lines["child"].tolist()[words], lines["unit"].tolist()[plain], lines["removes"].tolist()[full]), (-1, -1, True))
        self.assertTrue(np.isnan(lines["quantity"][words]))

    def test_what_is_changed_in_any_way_is_packed_anew(self) -> None:
        _fill()
        Part.objects.filter(number="C").update(kind="phantom", unit="kg", prices=[{"day": "2026-01-01", "unit_cost": "1"}])
        line = Line.objects.get(position=0.25)
        line.quantity, line.position = 12, 3.75
        line.save()
        Operation.objects.bulk_update([Operation(pk=o.pk, run_minutes=n) for n, o in enumerate(Operation.objects.all())], ["run_minutes"])
        with connection.cursor() as cursor:
            cursor.execute("UPDATE definition_line SET scrap_percent = 1.25 WHERE kind = 'byproduct'")
        self.assert_as_asked()
        packed = fetch_columns({}, "FROM definition_line WHERE position = 3.75", [], LINES)
        self.assertEqual(packed["quantity"].tolist(), [12.0])

    def test_a_word_that_nobody_knows_is_refused_when_it_is_read(self) -> None:
        _fill()
        Part.objects.filter(number="C").update(kind="dreamt")
        with self.assertRaisesMessage(AssertionError, "packed_1 holds a null"):
            fetch_columns({}, "FROM definition_part", [], PARTS)

    def test_the_migration_packs_as_it_is_read(self) -> None:
        migration = importlib.import_module("definition.migrations.0002_packed")
        self.assertEqual([layout.added for layout in _LAYOUTS], migration.ADDED)

    def test_no_code_is_beyond_a_byte(self) -> None:
        """A byte of PostgreSQL ends at 127: more words need another layout."""
        for layout in _LAYOUTS:
            for name, (expression, kind) in layout.columns.items():
                if kind == "code":
                    self.assertLess(expression.count("', '"), 126, name)


class InListOrder(TestCase):
    def test_as_the_database_orders(self) -> None:
        """At one position the key decides, as PostgreSQL orders keys."""
        parts = [Part.objects.create(number=number, kind="made", unit="ea") for number in "AB"]
        for part in parts:
            sheet = BuildSheet.objects.create(part=part)
            Line.objects.bulk_create(
                Line(sheet=sheet, position=position, kind="text", id=uuid.UUID(int=key << 64 | sheet.pk))
                for position, key in ((2, 1), (1, 2**64 - 1), (1, 3), (1, 2**63), (-0.5, 9))
            )
        rows = fetch_columns({}, "FROM definition_line", [], LINES)
        ours = [uuid.UUID(bytes=bytes(key)) for key in rows["id"][in_list_order(rows)]]
        self.assertEqual(ours, list(Line.objects.order_by("sheet", "position", "id").values_list("id", flat=True)))


class Keys(TestCase):
    def test_keys_travel_as_an_array(self) -> None:
        for keys in ([], [7], [-1, 0, 2**62]):
            with wire_cursor() as cursor:
                cursor.execute("SELECT %s::bigint[]", [np.array(keys, dtype=np.int64)])
                self.assertEqual(cursor.fetchone(), (keys,))

    def test_rows_by_their_names(self) -> None:
        names = [uuid.UUID(int=n).bytes for n in (5, 2**127, 9)]
        ids = np.frombuffer(b"".join(names), dtype="V16")
        wanted = np.frombuffer(b"".join([names[1], names[1], uuid.UUID(int=0).bytes, names[0], names[1], names[2]]), dtype="V16")
        self.assertEqual(rows_named(ids, wanted).tolist(), [1, 1, -1, 0, 1, 2])
        self.assertEqual((rows_named(ids, wanted[:0]).tolist(), rows_named(ids[:0], wanted[:2]).tolist()), ([], [-1, -1]))
