"""Our parts kept in columns: up to date whoever changed what, and a line finds there what it finds among all of them."""

import io
import json
import random
import tempfile
from unittest.mock import patch

from definition.models.parts import MakerNumber, Part
from django.core.management import call_command
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from jobs.models import Job
from partners.models import Partner
from readings.pairing import texts_of
from tally_core.pairing.propose import Asked, Ours, Shelf
from testing import Api, load

from inquiries.actions.read_parts import KIND, nightly
from inquiries.models import PartNumber, PartSaid, RememberedPair
from inquiries.ours import bring_up, shelf_for


def catalogue(r: random.Random, count: int) -> dict:
    """Made-up parts of several kinds, some with makers' numbers."""
    texts = (
        lambda: f"Resistor {r.choice([10, 22, 47, 100])} kΩ {r.choice([1, 5])} % {r.choice(['0603', '0805'])}",
        lambda: f"Capacitor {r.choice([1, 10, 100])} nF {r.choice([16, 25, 50])} V X7R 0603",
        lambda: f"Screw M{r.choice([3, 4, 5])} x {r.choice([10, 16])}, stainless A2",
        lambda: (
            f"{r.choice(['Bracket', 'Cover', 'Lens', 'Plate'])}, {r.choice(['painted', 'clear', 'left', 'right'])}, {r.choice([40, 80, 155])} mm"
        ),
    )
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "parts": [
            {
                "number": f"P-{n:04}",
                "kind": "bought",
                "unit": "ea",
                "description": r.choice(texts)(),
                "lifecycle": r.choice(["active", "active", "last_buy"]),
                "maker_numbers": [
                    {"maker": r.choice(["Nordry", "Tarn"]), "number": f"N{r.randint(10, 99)}R{r.randint(1000, 9999)}-{r.choice('FJK')}"}
                ]
                if r.random() < 0.6
                else [],
            }
            for n in range(count)
        ],
    }


def whole_shelf(remembered: dict[str, str]) -> Shelf:
    """All parts, read anew: what the kept columns must answer alike."""
    parts = list(Part.objects.all())
    texts = texts_of(parts)
    makers: dict[int, list] = {p.pk: [] for p in parts}
    for m in MakerNumber.objects.order_by("rank", "id"):
        makers[m.part_id].append((str(m.maker_id or ""), m.number, m.rank))
    return Shelf((Ours(p.number, texts[p.pk], makers[p.pk], p.lifecycle) for p in parts), remembered)


class KeptColumns(TestCase):
    def test_a_line_finds_what_it_finds_among_all_parts(self) -> None:
        r = random.Random(7)
        load(catalogue(r, 400))
        bring_up()
        numbers = list(MakerNumber.objects.values_list("number", flat=True))
        texts = list(Part.objects.values_list("description", flat=True))

        def slip(number: str) -> str:
            at = r.randrange(len(number) - 1)
            return r.choice((number, number + "TR", number.lower(), number[:at] + number[at + 1] + number[at] + number[at + 2 :]))

        asked = [
            Asked(
                r.choice(["", "Q-1", "P-0007"]),
                r.choice(["", "Nordry"]),
                slip(r.choice(numbers)) if r.random() < 0.5 else "",
                r.choice(texts),
            )
            for _ in range(150)
        ]
        remembered = {"Q1": "P-0003"}
        kept, whole = shelf_for(asked, remembered), whole_shelf(remembered)
        roads = set()
        for one in asked:
            found = whole.propose(one)
            self.assertEqual(kept.propose(one), found, one)
            roads |= {p.road for p in found}
        self.assertEqual(roads, {"remembered", "exact", "near", "by values", "by words"})

    def test_suffixes_are_learned_from_pairs_that_were_agreed(self) -> None:
        """A suffix of digits may be a value; once two pairs with parts of this maker say so, it is a packing."""
        numbers = ("TA0603-4K7F", "TA0603-10KF", "TA0805-22KF")
        load(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "currency": "EUR",
                "parts": [
                    {"number": f"P-{n}", "kind": "bought", "unit": "ea", "maker_numbers": [{"maker": "Tarn", "number": number}]}
                    for n, number in enumerate(numbers)
                ],
            }
        )
        bring_up()
        asked = [Asked("", "tarn", "TA0805-22KF-13")]

        def roads() -> list[tuple[str, str]]:
            (one,) = asked
            return [(p.part, p.road) for p in shelf_for(asked).propose(one)]

        customer = Partner.objects.create(name="Kestrel Piers", code="KP", customer=True)
        for n, (told, found) in enumerate(
            (
                ({"maker_number": "TA0603-4K7F-13"}, []),
                ({"maker": "Holm", "maker_number": "TA0603-10KF-13"}, []),
                ({"maker": "TARN", "maker_number": "TA0603-10KF-13"}, [("P-2", "near")]),
            )
        ):
            part = Part.objects.get(number=f"P-{min(n, 1)}")
            RememberedPair.objects.create(customer=customer, folded=f"K{n}", number=f"K-{n}", part=part, told=told)
            self.assertEqual(roads(), found, told)

    def test_parts_that_come_in_a_bundle_are_read_before_a_list_asks_for_them(self) -> None:
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            file.write(json.dumps(catalogue(random.Random(3), 30)))
            file.flush()
            call_command("load", file.name, stdout=io.StringIO())
        self.assertEqual((PartSaid.objects.count(), bring_up()), (30, 0))
        self.assertEqual([(j.kind, j.failed) for j in Job.objects.all()], [(KIND, "")])
        # And every night those that nobody asked for.
        Part.objects.filter(number="P-0006").update(description="y")
        with patch("inquiries.actions.read_parts.queue_for_tonight") as queued:
            nightly.call()
        queued.assert_called_once_with(nightly)
        self.assertEqual(bring_up(), 0)

    def test_whatever_changed_is_read_anew_and_nothing_else(self) -> None:
        load(catalogue(random.Random(3), 30))
        self.assertEqual((bring_up(), bring_up()), (30, 0))
        Api("engineer").patch("/parts/one?number=P-0001", {"description": "Resistor 33 kΩ 0805"})
        self.assertEqual(bring_up(), 1)
        self.assertEqual(PartSaid.objects.get(part__number="P-0001").main, "33000")
        Api("engineer").send("PUT", "/parts/one/makers?number=P-0002", {"makers": [{"maker": "Tarn", "number": "zz-9", "package": "0805"}]})
        Part.objects.filter(number="P-0003").update(material="brass")
        Part.objects.filter(number="P-0004").update(unit_cost=3)
        self.assertLessEqual(bring_up(), 2)
        Part.objects.filter(number="P-0005").update(kind="phantom", description="x")
        Part.objects.filter(number="P-0006").update(description="y")
        bring_up()
        self.assertEqual(
            PartSaid.objects.filter(part__number="P-0005").count() + PartNumber.objects.filter(part__number="P-0005").count(), 0
        )

    def test_how_many_queries_it_takes_does_not_depend_on_the_lines(self) -> None:
        load(catalogue(random.Random(3), 60))
        bring_up()
        counts = []
        for lines in (1, 40):
            with CaptureQueriesContext(connection) as queries:
                shelf_for([Asked(description=f"Resistor 10 kΩ 1 % 0603 number {n}") for n in range(lines)])
            counts.append(len(queries))
        self.assertEqual(counts[0], counts[1])
