"""What a service outside says may be anything: each answer is believed, or refused in words; none fails, hangs or takes the process."""

import json
import tempfile
import unittest
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from typing import Any
from unittest.mock import patch

from fuzzing import INPUTS, read_all
from tally_core.basics.errors import TallyError

from outside import by_items, by_quotation, by_resources, rates
from outside.by_folder import ByFolder
from outside.by_resources import ByResources
from outside.calling import CallFailed
from outside.records import Moved, Refused, Write
from outside.services import RateService, RecordService

_NAMES = ["A-1"]
_THING = {
    "kind": "items",
    "key": "A-1",
    "version": 3,
    "body": {"text": "Tube", "measure": "metre", "supply": "purchased", "days": 5},
    "by": "m",
    "at": "2026",
}
_LINES = {
    "kind": "structures",
    "key": "A-1|A",
    "version": 1,
    "body": {"lot": "10", "rows": [{"id": "1", "item": "B-1", "quantity": "2.5"}]},
    "by": "",
    "at": "",
}
_OFFER = {
    "makerNumber": "A-1", "maker": "Nordry", "article": "77", "currency": "EUR", "pack": 50, "inStock": 1200, "daysToDispatch": 4, "smallestOrder": 1,
    "prices": [{"from": 1, "price": "0.52"}, {"from": 100, "price": "0.40", "per": 1}],
}  # fmt: skip


class _Caller:
    """Answers every call with the same bytes."""

    def __init__(self, said: bytes, status: int = 200) -> None:
        self.said, self.status = said, status

    def call(self, *asked: Any) -> bytes:
        return self.said

    def once(self, *asked: Any, **more: Any) -> tuple[int, bytes]:
        return self.status, self.said


@contextmanager
def _answering(module: Any, said: bytes, status: int = 200) -> Iterator[None]:
    @contextmanager
    def calling(*asked: Any, **more: Any) -> Iterator[_Caller]:
        yield _Caller(said, status)

    # One who answers every page with "there is more" is another matter; here each call ends.
    with patch.object(module, "calling", calling), patch.object(module, "_pages", _one_page, create=True):
        try:
            yield
        except (CallFailed, Refused, Moved) as error:
            raise TallyError(str(error)) from None


def _one_page(caller: Any, kind: str, asked: str) -> Iterator[Any]:
    page = by_resources._believed(by_resources._Page, caller.call("GET", ""))
    yield from map(by_resources._thing, page.rows)


_RECORD = ByResources(RecordService(words="ours", kind="resources", address="http://127.0.0.1:1/"))


def _find(said: bytes) -> None:
    with _answering(by_resources, said):
        _RECORD.find("tube")


def _refusal(status: int) -> Callable[[bytes], None]:
    def refused(said: bytes) -> None:
        with (
            _answering(by_resources, said, status),
            patch.object(by_resources, "_believed", lambda form, told: by_resources._About(together=True, stamp=1)),
        ):
            _RECORD.write([Write("items", "A-1", "3", {"text": "x"})], "m")

    return refused


def _rates(said: bytes) -> None:
    with _answering(rates, said):
        rates.ask_rates(RateService(words="ours", address="http://127.0.0.1:1/"), date(2026, 11, 1))


def _offered(module: Any) -> Callable[[bytes], None]:
    def asked(said: bytes) -> None:
        try:
            module.ask(_Caller(said), _NAMES)
        except CallFailed as error:
            raise TallyError(str(error)) from None

    return asked


def _folder(said: bytes) -> None:
    """The same bytes as each of its files, as the columns of one are passed over by the others."""
    with tempfile.TemporaryDirectory() as folder:
        for name in ("items.csv", "structures.csv", "plans.csv"):
            Path(folder, name).write_bytes(said)
        book = ByFolder(RecordService(words="ours", kind="folder", folder=folder))
        try:
            for thing in book.read("A-1", []).things:
                book.as_held(thing.body)
        except CallFailed as error:
            raise TallyError(str(error)) from None


class Fuzzed(unittest.TestCase):
    def all_answered(self, read: Callable[[bytes], Any], seeds: Sequence[Any], some_read: bool = True) -> None:
        packed = [seed if isinstance(seed, bytes) else json.dumps(seed).encode() for seed in seeds]
        found = read_all(read, packed, INPUTS, seed=12)
        self.assertEqual(found.failed, {}, found)
        self.assertGreater(found.refused, 0)
        self.assertEqual(found.read > 0, some_read)

    def test_records_at_an_address(self) -> None:
        self.all_answered(_find, [{"rows": [_THING, _LINES], "next": None}])
        self.all_answered(_refusal(422), [{"problems": [{"key": "text", "says": "is needed"}]}, b"[" * 5000], some_read=False)
        self.all_answered(_refusal(412), [{"moved": [["items", "A-1"]]}], some_read=False)

    def test_records_in_files(self) -> None:
        self.all_answered(
            _folder,
            [
                b'code,text,supply,unit\r\nA-1,Tube,purchased,m\r\nB-1,"Rod, long",made,ea\r\n',
                b"code,variant,lot,id,position,item,quantity,unit\r\nA-1,A,10,1,10,B-1,2.5,m\r\nA-1,A,10,2,20,C-1,1,ea\r\n",
            ],
        )

    def test_offers_and_rates(self) -> None:
        self.all_answered(_offered(by_items), [_OFFER])
        self.all_answered(_rates, [{"base": "EUR", "worth": {"2026-11-02": {"USD": "0.92", "SEK": "0.087"}}}])
        space = "urn:oasis:names:specification:ubl:schema:xsd:"
        self.all_answered(
            _offered(by_quotation),
            [
                (
                    f'<q:Quotation xmlns:q="{space}Quotation-2" xmlns:g="{space}CommonAggregateComponents-2" xmlns:b="{space}CommonBasicComponents-2">'
                    "<b:IssueDate>2026-11-20</b:IssueDate><b:PricingCurrencyCode>SEK</b:PricingCurrencyCode><g:QuotationLine><g:LineItem><b:ID>1</b:ID>"
                    "<b:Quantity unitCode='MTR'>12</b:Quantity><g:Price><b:PriceAmount>7.25</b:PriceAmount></g:Price><g:Item><b:Name>Tube</b:Name>"
                    "<g:ManufacturersItemIdentification><b:ID>A-1</b:ID></g:ManufacturersItemIdentification></g:Item></g:LineItem></g:QuotationLine>"
                    "</q:Quotation>"
                ).encode()
            ],
        )
