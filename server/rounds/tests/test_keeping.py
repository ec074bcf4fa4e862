"""What a tally keeps: packed inputs that open as they were, rows copied in binary, who set what until when."""

import sys
from dataclasses import fields
from datetime import date, timedelta
from pathlib import Path
from unittest.mock import patch

import numpy as np
from definition.models.parts import Part
from django.db import connection
from django.test import TestCase
from django.utils.timezone import localdate, now
from loading.loaded import Loaded
from loading.reads import load_catalogue
from readings.provenance import who_set
from standards.models import Round, Tally, TallyRow
from tally_core.basics.elements import ELEMENTS
from tally_core.cost.causes import CAUSES
from tally_core.cost.cost import Fixed, roll_up, standard_lots
from tally_core.structure.overlay import same_inputs
from tally_core.structure.structure import build_structure
from testing import load, person, rod_and_tube
from verbs.parts.save_part import save_part
from verbs.sheets.load_bundle import load_bundle

from rounds.copying import copy_rows
from rounds.snapshot import pack, unpack

# Generated definitions come from the core's own tests.
sys.path.insert(0, str(Path(__file__).resolve().parents[3] / "core"))
from tests.generate import DAY, bundle


class Packed(TestCase):
    def same(self, one: Loaded, other: Loaded) -> None:
        for name in ("parts", "lines", "operations"):
            self.assertTrue(same_inputs(getattr(one, name), getattr(other, name)), name)
        for field in fields(Loaded):
            if field.name.endswith("_ids"):
                self.assertEqual(getattr(one, field.name).tolist(), getattr(other, field.name).tolist(), field.name)
        self.assertEqual((one.sheet_of, one.day, one.currency), (other.sheet_of, other.day, other.currency))
        self.assertEqual(list(one.parts.numbers), list(other.parts.numbers))

    def test_inputs_come_back_as_they_were_and_roll_up_to_the_same(self) -> None:
        for seed in (1003, 1007):
            load_bundle(bundle(seed)[0], "test")
            loaded = load_catalogue(date.fromisoformat(DAY))
            rows = np.array([3, 5])
            fixed = Fixed(rows, np.full((2, len(ELEMENTS)), 1.25), np.full((2, len(ELEMENTS)), 0.5))
            back, held = unpack(pack(loaded, fixed))
            self.same(loaded, back)
            assert held is not None
            for name in ("rows", "unit", "this_level"):
                np.testing.assert_array_equal(getattr(held, name), getattr(fixed, name))
            costs = []
            for x, standing in ((loaded, fixed), (back, held)):
                s = build_structure(x.parts, x.lines, x.operations, x.day)
                costs.append(roll_up(s, standard_lots(s), standing).unit)
            # To the last bit: no cause may come out of keeping.
            np.testing.assert_array_equal(*costs)

    def test_nothing_at_all_comes_back_as_nothing(self) -> None:
        loaded = load_catalogue(localdate())
        back, fixed = unpack(pack(loaded, None))
        self.assertIsNone(fixed)
        self.same(loaded, back)

    def test_columns_of_one_value_take_no_room(self) -> None:
        load(rod_and_tube("released"))
        loaded = load_catalogue(localdate())
        small = len(pack(loaded, None))
        loaded.parts.unit_cost = np.random.default_rng(1).random(len(loaded.parts))
        self.assertLess(small, len(pack(loaded, None)))


class Copied(TestCase):
    def test_rows_read_back_through_the_models_as_they_were_copied(self) -> None:
        load(rod_and_tube())
        user = person("accountant")
        the_round = Round.objects.create(name="R", first_day=localdate(), opened_by=str(user))
        tally = Tally.objects.create(
            round=the_round, round_version=1, mark={}, last_standard=0, tallied_by=str(user), elements=list(ELEMENTS), causes=list(CAUSES)
        )
        keys = np.array(sorted(Part.objects.values_list("pk", flat=True)), dtype=np.int64)
        random = np.random.default_rng(2)
        most = 2**62
        columns = {
            "tally_id": np.full(len(keys), tally.pk),
            "part_id": keys,
            **{n: random.integers(-most, most, len(keys)) for n in ("lot", "unit", "before")},
            **{n: random.integers(-most, most, (len(keys), 9)) for n in ("elements", "this_level", "before_elements")},
            "causes": random.integers(-most, most, (len(keys), len(CAUSES))),
            "standard": None,
        }
        with patch("rounds.copying.MANY", len(keys)), self.captureOnCommitCallbacks(execute=True):
            copy_rows("standards_tallyrow", columns, len(keys))
        for at, row in enumerate(TallyRow.objects.order_by("part_id")):
            for name, values in columns.items():
                wanted = None if values is None else values[at].tolist()
                self.assertEqual(getattr(row, name), wanted, name)
        with connection.cursor() as cursor:
            # Many that came at once are known to the planner at once.
            cursor.execute("SELECT reltuples FROM pg_class WHERE relname = 'standards_tallyrow'")
            self.assertEqual(cursor.fetchone(), (len(keys),))
            cursor.execute("SELECT sum(elements[9]), array_length(causes, 1) FROM standards_tallyrow GROUP BY 2")
            self.assertEqual(cursor.fetchall(), [(int(columns["elements"][:, 8].astype(object).sum()), len(CAUSES))])


class Until(TestCase):
    def test_who_set_a_value_then_is_not_who_set_the_one_of_now(self) -> None:
        load(rod_and_tube())
        engineer, accountant = person("engineer"), person("accountant")
        save_part(engineer, {"unit_cost": "4"}, "ROD", 1)
        between = now()
        save_part(accountant, {"unit_cost": "5"}, "ROD", 2)
        part = Part.objects.get(number="ROD")
        history = part.history.order_by("history_id")
        for row, by in zip(history, (None, engineer, accountant), strict=True):
            row.history_user = by
            row.save()
        wanted = {part.pk: {"unit_cost"}}
        self.assertEqual(who_set(Part, [part.pk], wanted)[part.pk, "unit_cost"]["by"], "accountant")
        self.assertEqual(who_set(Part, [part.pk], wanted, between)[part.pk, "unit_cost"]["by"], "engineer")
        self.assertEqual(who_set(Part, [part.pk], wanted, between - timedelta(days=1)), {})
