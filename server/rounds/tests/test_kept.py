"""What was kept opens for ever: golden files of each format, and what is kept over names when the program has others by now."""

import json
from dataclasses import field, make_dataclass, replace
from datetime import date, timedelta
from pathlib import Path
from unittest.mock import patch

import numpy as np
from definition.models.parts import Part
from django.test import SimpleTestCase, TestCase
from django.utils.timezone import localdate
from loading import standards
from standards import by_name
from standards.models import Round, Standard, Tally, TallyRow
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.basics.units import SYMBOLS
from tally_core.cost.cost import roll_up, standard_lots
from tally_core.structure.structure import build_structure
from tally_core.structure.tables import Column, PartTable, columns_of
from testing import Api, load, person, rod_and_tube

from rounds import reads as rounds
from rounds import snapshot
from rounds.snapshot import unpack

GOLDEN = Path(__file__).parent / "golden"


class Inputs(SimpleTestCase):
    """``inputs-1.bin`` holds what the program kept on 26 November 2026, ``inputs-1.json`` what came of it then."""

    def setUp(self) -> None:
        self.kept = (GOLDEN / "inputs-1.bin").read_bytes()
        self.then = json.loads((GOLDEN / "inputs-1.json").read_text())

    def test_format_1_opens_and_rolls_up_to_what_it_did(self) -> None:
        loaded, fixed = unpack(self.kept)
        self.assertEqual((loaded.day.isoformat(), loaded.currency), (self.then["day"], self.then["currency"]))
        s = build_structure(loaded.parts, loaded.lines, loaded.operations, loaded.day)
        unit = roll_up(s, standard_lots(s), fixed).unit[:, [ELEMENTS.index(name) for name in self.then["elements"]]]
        np.testing.assert_allclose(unit, self.then["unit"], rtol=1e-8, atol=1e-12)
        self.assertEqual([SYMBOLS[u] for u in loaded.parts.unit.tolist()], self.then["units_of_measure"])

    def test_it_opens_where_a_unit_a_kind_an_element_and_a_column_were_inserted(self) -> None:
        plain, plain_fixed = unpack(self.kept)
        assert plain_fixed is not None
        columns = columns_of(PartTable)
        columns["kind"] = replace(columns["kind"], words=("tool", *columns["kind"].words))
        columns["unit"] = replace(columns["unit"], words=("barrel", *columns["unit"].words))
        columns["hazard"] = Column("float64", 7.0)
        grown = make_dataclass("Grown", [("numbers", object), *((n, object, field(metadata={"column": c})) for n, c in columns.items())])
        with (
            patch.dict(snapshot._TABLES, {"parts": grown}),
            patch.object(snapshot, "PartTable", grown),
            patch.object(snapshot, "ELEMENTS", ("energy", *ELEMENTS)),
        ):
            loaded, fixed = unpack(self.kept)
        assert fixed is not None
        np.testing.assert_array_equal(loaded.parts.kind, plain.parts.kind + 1)
        np.testing.assert_array_equal(loaded.parts.unit, plain.parts.unit + 1)
        self.assertEqual(set(loaded.parts.hazard.tolist()), {7.0})
        np.testing.assert_array_equal(loaded.parts.unit_cost, plain.parts.unit_cost)
        self.assertFalse(fixed.unit[:, 0].any())
        np.testing.assert_array_equal(fixed.unit[:, 1:], plain_fixed.unit)

    def test_a_word_that_is_not_known_is_named_where_it_is_used(self) -> None:
        columns = columns_of(PartTable)
        known = tuple(word for word in columns["unit"].words if word not in self.then["units_of_measure"])
        for words, used in ((known, True), (tuple(w for w in columns["unit"].words if w != "gal"), False)):
            columns["unit"] = replace(columns["unit"], words=words)
            with patch.object(snapshot, "columns_of", lambda table: columns if table is PartTable else columns_of(table)):
                if used:
                    with self.assertRaisesRegex(TallyError, "which this program does not know"):
                        unpack(self.kept)
                else:
                    self.assertEqual([words[u] for u in unpack(self.kept)[0].parts.unit.tolist()], self.then["units_of_measure"])

    def test_what_a_newer_program_kept_is_said_to_be_that(self) -> None:
        for content in (b"round-tally-inputs 2\nxyz", b"nonsense", b""):
            with self.assertRaisesRegex(TallyError, "this program opens formats up to 1"):
                unpack(content)


class ByName(TestCase):
    """A standard of a time when there were fewer elements, in another order."""

    def setUp(self) -> None:
        load(rod_and_tube("released"))
        user = person("accountant")
        self.part = Part.objects.get(number="RT-1")
        self.round = Round.objects.create(name="Old", first_day=localdate(), opened_by=str(user), status="accepted")
        tally = Tally.objects.create(
            round=self.round,
            round_version=1,
            mark={},
            last_standard=0,
            tallied_by=str(user),
            elements=["labor", "material"],
            causes=["usage", "price"],
        )
        amounts = {"part": self.part, "lot": 1_000_000, "unit": 5_000_000, "elements": [2_000_000, 3_000_000], "this_level": [2_000_000, 0]}
        TallyRow.objects.create(tally=tally, before=4_000_000, before_elements=[1_000_000, 3_000_000], causes=[250_000, 750_000], **amounts)
        Standard.objects.create(round=self.round, first_day=localdate() - timedelta(days=1), **amounts)

    def test_amounts_stand_at_their_names(self) -> None:
        found = standards.read_standards(date.max)
        self.assertEqual(
            dict(zip(ELEMENTS, found.elements[0].tolist(), strict=True)) | {"labor": 0, "material": 0}, dict.fromkeys(ELEMENTS, 0)
        )
        self.assertEqual([int(found.elements[0][ELEMENTS.index(n)]) for n in ("labor", "material")], [2_000_000, 3_000_000])
        self.assertEqual(int(found.this_level[0][ELEMENTS.index("labor")]), 2_000_000)
        row = rounds.one_row(self.round, self.part.pk)
        self.assertEqual(row["elements"]["labor"], 2)
        self.assertEqual(row["before_elements"]["material"], 3)
        self.assertEqual({c: v for c, v in row["causes"].items() if v}, {"price": 0.75, "usage": 0.25})
        (standard,) = rounds.standards_of(self.part)
        self.assertEqual(standard["elements"]["material"], 3)

    def test_an_element_that_came_later_is_nothing(self) -> None:
        with patch.object(standards, "ELEMENTS", ("energy", *ELEMENTS)):
            found = standards.read_standards(date.max)
        self.assertEqual((int(found.elements[0][0]), int(found.elements.sum())), (0, 5_000_000))
        self.assertEqual(by_name.in_order(["labor"], [3], ["energy", "labor"]), [0, 3])
        status, answer = Api("viewer").get(f"/rounds/{self.round.pk}/rows")
        self.assertEqual((status, answer["items"][0]["after"]), (200, 5))
