"""The parts-data service well, slow, down, limiting and lying: what is believed, how long it takes, and that work goes on."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from unittest.mock import patch

from django.test import SimpleTestCase, TestCase, override_settings
from inquiries.models import NumberData
from inquiries.tests.at_work import LIST
from testing import Api, workbook

from outside import calling
from outside.parts_data import PartData, ask_parts_data
from outside.tests.standing import running, switch
from standins.parts_data import Server


@contextmanager
def service(mode: str = "well") -> Iterator[tuple[Server, str]]:
    """The stand-in, behaving so."""
    server = Server(0)
    with running(server) as address:
        switch(address, "parts-data", mode)
        yield server, address


class Asking(SimpleTestCase):
    def ask(self, address: str, numbers: list[str]) -> tuple[dict[str, PartData | None], str]:
        found: dict[str, PartData | None] = {}
        return found, ask_parts_data(address, numbers, found.__setitem__)

    def test_well(self) -> None:
        with service() as (_, address):
            found, failed = self.ask(address, ["HS8-32", "TL3535-W", "no/such number"])
        self.assertEqual(failed, "")
        self.assertEqual((found["TL3535-W"].lifecycle, found["TL3535-W"].replacement), ("ended", "TL3535-W2"))
        self.assertEqual(found["HS8-32"].case, "QFP-32")
        self.assertIsNone(found["no/such number"])

    def test_down_is_found_out_soon_and_the_rest_is_not_asked(self) -> None:
        numbers = [f"N-{n}" for n in range(200)]
        with service("down") as (server, address):
            found, failed = self.ask(address, numbers)
            self.assertLess(server.asked, 40)
        self.assertEqual(found, {})
        self.assertTrue(failed.startswith("200 of 200 numbers could not be asked: the service answered 503"), failed)
        # Nobody listens there any more.
        self.assertIn("could not be reached", self.ask(address, ["N-1"])[1])

    def test_slow_is_not_waited_for(self) -> None:
        with service("slow") as (_, address), patch.object(calling, "TIMEOUT", 0.2):
            began = time.monotonic()
            found, failed = self.ask(address, [f"N-{n}" for n in range(50)])
            took = time.monotonic() - began
        self.assertEqual(found, {})
        self.assertIn("did not answer within", failed)
        # Not the six seconds of one answer: bounded by tries and by giving up.
        self.assertLess(took, 6)

    def test_a_limit_is_kept_to_and_all_is_known_in_the_end(self) -> None:
        with service("limiting") as (server, address):
            found, failed = self.ask(address, list(server.parts)[:8])
        self.assertEqual((failed, len(found)), ("", 8))

    def test_what_has_wrong_types_or_breaks_off_is_not_believed(self) -> None:
        with service("wrong") as (_, address):
            found, failed = self.ask(address, ["HS8-32", "HS0310-A", "TL3535-W"])
        self.assertEqual(found, {})
        self.assertIn("something else than data of a part", failed)
        for lie in (
            '{"number": "A", "lifecycle": "soon"}',
            '{"number": "A", "values": {"x": 1}}',
            '{"number": "' + "A" * 300 + '"}',
            "[]",
            '{"lifecycle": "ended"}',
        ):
            with self.assertRaises(ValueError, msg=lie):
                PartData.model_validate_json(lie)


class InInquiries(TestCase):
    def brought(self, address: str) -> tuple[Api, str, dict]:
        api = Api("engineer")
        at = f"/inquiries/{api.post('/inquiries', {'title': 'Lights'})[1]['id']}"
        rows = [*LIST[:4], [1, "K-1", "Emitter", "Tarn / TL3535-W", 1, "D1"], [2, "K-2", "Driver", "Nobody / XX-1", 1, "U1"]]
        with override_settings(PARTS_DATA=address):
            answer = api.upload("list.xlsx", workbook(rows), f"{at}/files")[1]
            answer = api.get(at)[1]
        return api, at, answer

    def codes(self, api: Api, at: str) -> dict[str, list[str]]:
        table = api.get(f"{at}/lines")[1]["table"]
        rows = [table["same"] | {n: c[i] for n, c in table["each"].items()} for i in range(table["count"])]
        return {r["part"]: [f["code"] for f in r["findings"]] for r in rows}

    def test_what_is_known_stands_on_the_lines_and_is_not_asked_again(self) -> None:
        with service() as (server, address):
            api, at, answer = self.brought(address)
            self.assertEqual(answer["data"], "")
            codes = self.codes(api, at)
            self.assertEqual((codes["K-1"], codes["K-2"]), (["number-ended"], ["number-unknown"]))
            asked = server.asked
            with override_settings(PARTS_DATA=address):
                self.assertEqual(api.post(f"{at}/data", {})[0], 200)
                line = next(x for x in api.get(f"{at}/lines")[1]["table"]["each"]["id"][1:])
                beside = api.get(f"{at}/lines/{line}")[1]
            self.assertEqual(server.asked, asked)
            self.assertEqual((beside["data"]["words"], bool(beside["data"]["day"])), ("ended, 3535, then TL3535-W2", True))

    def test_without_it_work_goes_on_and_says_what_is_missing(self) -> None:
        with service("down") as (_, address):
            api, at, answer = self.brought(address)
        self.assertIn("2 of 2 numbers could not be asked", answer["data"])
        self.assertEqual((answer["lines"], NumberData.objects.count()), (3, 0))
        self.assertEqual(self.codes(api, at)["K-1"], [])
        with override_settings(PARTS_DATA=address):
            line = api.get(f"{at}/lines")[1]["table"]["each"]["id"][1]
            self.assertEqual(api.get(f"{at}/lines/{line}")[1]["data"]["words"], "not asked yet")
        with service() as (_, address), override_settings(PARTS_DATA=address):
            self.assertEqual(api.post(f"{at}/data", {})[1]["data"], "")
        self.assertEqual(self.codes(api, at)["K-1"], ["number-ended"])
        with override_settings(PARTS_DATA=""):
            self.assertEqual(api.post(f"{at}/data", {})[0], 422)
            self.assertIsNone(api.get(at)[1]["data"])

    def test_no_request_of_a_person_waits_for_it(self) -> None:
        """With the worker apart, asking answers at once, however slow the service is."""
        with (
            service("slow") as (server, address),
            override_settings(PARTS_DATA=address),
            patch("inquiries.actions.ask_data.run_ask") as later,
        ):
            api = Api("engineer")
            at = f"/inquiries/{api.post('/inquiries', {'title': 'Lights'})[1]['id']}"
            self.assertEqual(api.post(f"{at}/data", {})[0], 200)
            self.assertEqual((server.asked, later.enqueue.call_count), (0, 1))
