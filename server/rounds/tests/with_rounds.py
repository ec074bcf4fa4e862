"""What the tests of rounds share."""

from datetime import timedelta

from definition.models.parts import Part, PartClass
from definition.models.sheets import Line
from django.test import TestCase
from django.utils.timezone import localdate
from standards.models import Round
from testing import Api, load, rod_and_tube, sheet_of

TODAY = localdate()


class WithRounds(TestCase):
    """What the tests of rounds share: a small product, and the calls from a proposal to acceptance."""

    def setUp(self) -> None:
        load(rod_and_tube("released"))
        Line.objects.create(sheet=sheet_of("RT-1"), kind="text", text="See the drawing.", position=99)
        # Known last and measured otherwise than all the others.
        Part.objects.create(number="ZINC", kind="bought", unit="kg", unit_cost=2)
        PartClass.objects.create(name="Metal")
        Part.objects.filter(number="ROD").update(part_class="Metal")
        self.engineer, self.accountant = Api("engineer"), Api("accountant")

    def opened(self, name: str = "Metal up", day=TODAY, **more) -> int:
        status, the_round = self.engineer.post("/rounds", {"name": name, "first_day": day.isoformat(), **more})
        self.assertEqual(status, 200, the_round)
        return the_round["id"]

    def propose(self, key: int, *items: tuple) -> tuple[int, dict]:
        listed = [dict(zip(("table", "key", "field", "value", "reason"), item, strict=False)) for item in items]
        return self.engineer.post(f"/rounds/{key}/proposals", {"items": listed})

    def tallied(self, key: int) -> dict:
        status, the_round = self.engineer.post(f"/rounds/{key}/tally", {})
        self.assertEqual((status, the_round.get("failed")), (200, ""), the_round)
        return the_round

    def accept(self, key: int, api: Api | None = None) -> tuple[int, dict]:
        version = Round.objects.get(pk=key).version
        return (api or self.accountant).post(f"/rounds/{key}/accept", {"version": version})

    def rows(self, key: int, **query) -> dict[str, dict]:
        return {row["number"]: row for row in self.engineer.get(f"/rounds/{key}/rows", **query)[1]["items"]}

    def accepted(self, name: str = "First", day=TODAY - timedelta(days=30)) -> int:
        """A round over everything, accepted."""
        key = self.opened(name, day, scope="all")
        self.tallied(key)
        status, the_round = self.accept(key)
        self.assertEqual((status, the_round["status"], the_round["failed"]), (200, "accepted", ""))
        return key
