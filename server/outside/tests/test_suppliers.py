"""Suppliers' services and the feed of rates: well, slow, down, lying, refusing, limiting; and that no account is ever told."""

import json
import os
import tempfile
import time
from decimal import Decimal as D
from pathlib import Path
from unittest.mock import patch

from django.test import SimpleTestCase, override_settings
from tally_core.basics.errors import TallyError

from outside import calling
from outside.calling import CallFailed
from outside.rates import ask_rates
from outside.services import RateService, SupplierService, supplier_services
from outside.suppliers import ask_suppliers
from outside.tests.standing import running, switch
from standins.suppliers import Server


def shelf(kind: str, numbers: int = 0, a_minute: int = 10_000) -> dict:
    """A supplier of made-up numbers; the account "k" pays the price as it stands, "vip" nine tenths."""
    items = {f"N-{n}": ["Nordry", f"A{n}", "1=2.00 100=1.50", 1, 0, 10, 5000, 7] for n in range(numbers)}
    return {"name": kind, "kind": kind, "currency": "EUR", "calls_a_minute": a_minute, "accounts": {"k": "1", "vip": "0.9"}, "items": items}


def service(address: str, name: str, key: str = "k", **more: object) -> SupplierService:
    return SupplierService.model_validate(
        {"words": name, "kind": name, "address": f"{address}{name}/", "key": key, "calls_a_minute": 10_000, **more}
    )


class Asking(SimpleTestCase):
    def ask(self, **asked: tuple[SupplierService, list[str]]) -> tuple[dict[str, dict], dict[str, str]]:
        offers: dict[str, dict] = {name: {} for name in asked}
        failed: dict[str, str] = {}
        for said in ask_suppliers(asked):
            offers[said.name].update(said.offers)
            if said.failed:
                failed[said.name] = said.failed
        return offers, failed

    def test_both_kinds_say_the_same_of_the_same(self) -> None:
        server = Server(0, {"items": shelf("items", 120), "quotation": shelf("quotation", 120)})
        numbers = [f"N-{n}" for n in range(120)] + ["X/9 unknown"]
        with running(server) as at:
            offers, failed = self.ask(items=(service(at, "items"), numbers), quotation=(service(at, "quotation"), numbers))
            self.assertEqual(failed, {})
            for name in ("items", "quotation"):
                self.assertIsNone(offers[name]["X/9 unknown"])
                one = offers[name]["N-7"]
                self.assertEqual([(b.start, b.price / b.per) for b in one.breaks], [(1, D("2")), (100, D("1.5"))])
                self.assertEqual((one.maker, one.their_number, one.multiple, one.available, one.lead_days), ("Nordry", "A7", 10, 5000, 7))
            # A request carries fifty lines; a number, one.
            self.assertEqual(server.asked, 121 + 3)
            dear = self.ask(items=(service(at, "items", "vip"), ["N-1"]))[0]["items"]["N-1"]
            self.assertEqual(dear.breaks[0].price, D("1.8"))

    def test_one_is_down_and_the_others_answer(self) -> None:
        server = Server(0, {"items": shelf("items", 9), "quotation": shelf("quotation", 9)})
        numbers = [f"N-{n}" for n in range(9)]
        with running(server) as at:
            for mode, words in (
                ("down", "the service answered 503"),
                ("refusing", "does not take our account"),
                ("wrong", "something else than"),
            ):
                switch(at, "quotation", mode)
                asked = server.asked
                offers, failed = self.ask(items=(service(at, "items"), numbers), quotation=(service(at, "quotation"), numbers))
                self.assertEqual((len(offers["items"]), offers["quotation"]), (9, {}))
                self.assertIn(words, failed["quotation"])
                self.assertLess(server.asked - asked, 9 + 4)
            switch(at, "items", "wrong")
            offers, failed = self.ask(items=(service(at, "items"), numbers))
            self.assertEqual(offers["items"], {})
            switch(at, "quotation", "slow")
            with patch.object(calling, "TIMEOUT", 0.2):
                self.assertIn("did not answer within 0.2", self.ask(quotation=(service(at, "quotation"), numbers))[1]["quotation"])

    def test_a_limit_is_kept_to_without_being_refused(self) -> None:
        """Of a service that takes twelve calls in any (short) minute, thirty take more than two of them, and none is refused.

        Our minute is longer here than theirs, so that a call may be late on its way.
        """
        server = Server(0, {"items": shelf("items", 30, a_minute=12)})
        within, refused = server.within, []

        def short(key: str, most: int, seconds: float) -> float:
            wait = within(key, most, 0.5)
            refused.append(wait > 0)
            return wait

        with running(server) as at, patch.object(server, "within", short), patch.object(calling, "_MINUTE", 1.5):
            began = time.monotonic()
            offers, failed = self.ask(items=(service(at, "items", calls_a_minute=12), [f"N-{n}" for n in range(30)]))
            took = time.monotonic() - began
        self.assertEqual((failed, sum(o is not None for o in offers["items"].values())), ({}, 30))
        self.assertEqual((len(refused), any(refused)), (30, False))
        self.assertGreater(took, 2.9)

    def test_stopping_waits_for_nobody(self) -> None:
        server = Server(0, {"items": shelf("items", 30, a_minute=1)})

        def stop() -> None:
            if time.monotonic() - began > 0.3:
                raise TallyError("stopped")

        with running(server) as at:
            began = time.monotonic()
            with self.assertRaisesMessage(TallyError, "stopped"):
                list(ask_suppliers({"items": (service(at, "items", calls_a_minute=1), [f"N-{n}" for n in range(30)])}, stop))
        self.assertLess(time.monotonic() - began, 5)

    def test_what_is_not_offered_as_it_should_be_is_not_believed(self) -> None:
        from outside import by_items, by_quotation

        class Lying:
            def __init__(self, said: str) -> None:
                self.said = said

            def call(self, *_: object) -> bytes:
                return self.said.encode()

        good = '{"makerNumber": "A 1", "currency": "EUR", "prices": [{"from": 1, "price": "2.5"}]}'
        self.assertEqual(by_items.ask(Lying(good), ["a-1"])["a-1"].breaks[0].price, D("2.5"))  # type: ignore[arg-type]
        for before, after in (
            ('"A 1"', '"A 2"'),
            ('"EUR"', '"euro"'),
            ('"2.5"', '"NaN"'),
            ('"2.5"', '"-1"'),
            ('"2.5"', '"1e400"'),
            ('"2.5"', '"cheap"'),
            ('"from": 1', '"from": -1'),
            ('[{"from": 1, "price": "2.5"}]', "[]"),
            ('"prices"', '"daysToDispatch": 99999999, "prices"'),
            ('"from": 1', '"per": 0, "from": 1'),
        ):
            with self.assertRaises(CallFailed, msg=after):
                by_items.ask(Lying(good.replace(before, after)), ["a-1"])  # type: ignore[arg-type]
        for said in ("", "<a/>", "<!DOCTYPE a [<!ENTITY x 'y'>]><a>&x;</a>", "{}"):
            with self.assertRaises(CallFailed, msg=said):
                by_quotation.ask(Lying(said), ["a-1"])  # type: ignore[arg-type]


class Rates(SimpleTestCase):
    def test_the_feed(self) -> None:
        from datetime import date, timedelta

        server = Server(0)
        since = date.today() - timedelta(days=9)
        with running(server) as at:
            feed = RateService(words="feed", address=at)
            base, worth = ask_rates(feed, since)
            self.assertEqual(base, "EUR")
            self.assertTrue(all(day >= since and day.weekday() < 5 and 0 < rates["USD"] < 2 for day, rates in worth.items()))
            for mode, words in (("down", "answered 503"), ("wrong", "something else than rates")):
                switch(at, "rates", mode)
                with self.assertRaisesRegex(CallFailed, words):
                    ask_rates(feed, since)


class Accounts(SimpleTestCase):
    def kept(self, content: object, mode: int = 0o600) -> override_settings:
        folder = tempfile.mkdtemp()
        file = Path(folder) / "services.json"
        file.write_text(content if isinstance(content, str) else json.dumps(content))
        os.chmod(file, mode)
        return override_settings(SERVICES=str(file))

    def test_the_file_of_services(self) -> None:
        one = {"words": "Their prices", "kind": "items", "address": "https://prices.example/", "key": "very-secret"}
        with self.kept({"format": 1, "suppliers": {"one": one}}):
            self.assertEqual(supplier_services()["one"].calls_a_minute, 60)
            self.assertNotIn("very-secret", repr(supplier_services()))
        with self.kept({"format": 1, "suppliers": {"one": one}}, 0o644), self.assertRaisesRegex(TallyError, "may be read by others"):
            supplier_services()
        for broken in (
            "{",
            {"format": 2},
            {"format": 1, "suppliers": {"one": one | {"kind": "gossip"}}},
            {"format": 1, "suppliers": {"one": one | {"address": "file:///etc/passwd"}}},
        ):
            with self.kept(broken), self.assertRaises(TallyError) as refused:
                supplier_services()
            self.assertNotIn("very-secret", str(refused.exception))
        with override_settings(SERVICES="/nowhere/at/all"):
            self.assertEqual(supplier_services(), {})
