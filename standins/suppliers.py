"""Suppliers that answer what a maker's number costs, and a feed of currency rates; all made up. ``python -m standins.suppliers PORT``.

Two kinds of interface. *items*: ``GET /NAME/v1/items/NUMBER`` answers JSON for one maker's number. *quotation*: ``POST /NAME/quotations`` takes a
UBL 2.1 RequestForQuotation of many lines and answers with a Quotation. Both know accounts by the header ``Authorization: Bearer KEY``, on
which prices depend, and take only so many calls a minute. ``GET /rates?since=DAY`` answers what a euro's worth of each currency is by day.
``/`` is the page that makes each slow, down, wrong, refusing, or moving between two calls.
"""

import json
import sys
import time
from copy import deepcopy
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit
from xml.etree import ElementTree as ET
from xml.sax.saxutils import escape, quoteattr

from standins.service import StandIn, StandInHandler

__all__ = ["MODES", "Server", "serve"]

MODES = {
    "well": "answers at once",
    "slow": "answers after six seconds",
    "down": "answers 503",
    "wrong": "answers with wrong types, for another number, or breaks off",
    "refusing": "does not take the account",
    "moving": "asks another price each time",
}
_RATES = "rates"
#: What one unit of a currency is worth in euros on the first day of the feed, and how it moves from day to day, in ten thousandths.
_WORTH = {"USD": (Decimal("0.9188"), 3), "GBP": (Decimal("1.1530"), -2), "SEK": (Decimal("0.0891"), 1)}
_FIRST = date(2026, 1, 1)
_SPACE = "urn:oasis:names:specification:ubl:schema:xsd:"


class Server(StandIn):
    """The services; ``shelves`` are those of ``suppliers.json`` unless others are given."""

    def __init__(self, port: int, shelves: dict[str, Any] | None = None) -> None:
        self.shelves: dict[str, Any] = deepcopy(shelves) if shelves else json.loads(Path(__file__).with_suffix(".json").read_text())
        named = {code: shelf["name"] for code, shelf in self.shelves.items()}
        super().__init__(port, _Handler, "Suppliers", named | {_RATES: "Rates of currencies"}, MODES)
        # Prices of a supplier that moves: percent over what it asked first.
        self.moved = dict.fromkeys(self.shelves, 0)


class _Handler(StandInHandler):
    server: Server

    def do_GET(self) -> None:
        where = urlsplit(self.path)
        if where.path == "/":
            return self.page()
        if where.path == "/rates":
            return self._rates(parse_qs(where.query).get("since", [""])[0])
        name, _, rest = where.path.lstrip("/").partition("/")
        shelf = self.server.shelves.get(name)
        if shelf and shelf["kind"] == "items" and rest.startswith("v1/items/"):
            return self._item(name, shelf, unquote(rest.removeprefix("v1/items/")))
        return self.say(404, "{}")

    def do_POST(self) -> None:
        if self.path == "/switch":
            return self.switched()
        name, _, rest = self.path.lstrip("/").partition("/")
        shelf = self.server.shelves.get(name)
        if shelf and shelf["kind"] == "quotation" and rest == "quotations":
            return self._quotation(name, shelf)
        return self.say(404, "{}")

    def _taken(self, name: str, accounts: dict[str, str] | None) -> Decimal | None:
        """The share of the price that the account of a call pays; None where the call was answered already, with why it is not taken."""
        self.server.counted()
        mode = self.server.modes[name]
        if mode == "down":
            return self.say(503, "{}")
        if accounts is None:
            return Decimal(1)
        share = accounts.get((self.headers.get("Authorization") or "").removeprefix("Bearer "))
        if share is None or mode == "refusing":
            return self.say(401, "{}")
        wait = self.server.within(name, self.server.shelves[name]["calls_a_minute"], 60.0)
        if wait:
            return self.say(429, "{}", more={"Retry-After": str(int(wait) + 1)})
        if mode == "slow":
            time.sleep(6)
        if mode == "moving":
            self.server.moved[name] += 2
        return Decimal(share) * (100 + self.server.moved[name]) / 100

    def _item(self, name: str, shelf: dict[str, Any], number: str) -> None:
        share = self._taken(name, shelf["accounts"])
        if share is None:
            return None
        found = shelf["items"].get(number)
        if found is None:
            return self.say(404, "{}")
        maker, article, prices, per, minimum, pack, stock, days = found
        body = json.dumps(
            {
                "maker": maker,
                "makerNumber": number,
                "article": article,
                "currency": shelf["currency"],
                "prices": [{"from": start, "price": str(price), "per": per} for start, price in _prices(prices, share)],
                "smallestOrder": minimum,
                "pack": pack,
                "inStock": stock,
                "daysToDispatch": days,
            }
        )
        if self.server.modes[name] == "wrong":
            lies = (body[: len(body) // 2], '{"makerNumber": 7, "prices": "free"}', body.replace(number, f"{number}-X"))
            body = lies[len(number) % len(lies)]
        return self.say(200, body)

    def _quotation(self, name: str, shelf: dict[str, Any]) -> None:
        share = self._taken(name, shelf["accounts"])
        if share is None:
            return None
        try:
            asked = ET.fromstring(self.body())
        except ET.ParseError:
            return self.say(400, "{}")
        lines = []
        for at, line in enumerate(asked.iter(f"{{{_SPACE}CommonAggregateComponents-2}}RequestForQuotationLine"), 1):
            number = line.findtext("{*}LineItem/{*}Item/{*}ManufacturersItemIdentification/{*}ID") or ""
            found = shelf["items"].get(number)
            if found is not None:
                lines.append(_line(at, number, found, share, shelf["currency"]))
        until = (date.today() + timedelta(days=30)).isoformat()
        body = (
            f'<?xml version="1.0" encoding="UTF-8"?><Quotation xmlns="{_SPACE}Quotation-2" xmlns:cac="{_SPACE}CommonAggregateComponents-2" '
            f'xmlns:cbc="{_SPACE}CommonBasicComponents-2"><cbc:UBLVersionID>2.1</cbc:UBLVersionID><cbc:ID>Q-1</cbc:ID>'
            f"<cbc:IssueDate>{date.today().isoformat()}</cbc:IssueDate><cbc:PricingCurrencyCode>{shelf['currency']}</cbc:PricingCurrencyCode>"
            f"<cac:ValidityPeriod><cbc:EndDate>{until}</cbc:EndDate></cac:ValidityPeriod><cac:SellerSupplierParty><cac:Party><cac:PartyName><cbc:Name>"
            f"{escape(shelf['name'])}</cbc:Name></cac:PartyName></cac:Party></cac:SellerSupplierParty><cac:QuotedMonetaryTotal><cbc:PayableAmount "
            f"currencyID={quoteattr(shelf['currency'])}>0</cbc:PayableAmount></cac:QuotedMonetaryTotal>{''.join(lines)}</Quotation>"
        )
        if self.server.modes[name] == "wrong":
            body = body[: len(body) // 2]
        return self.say(200, body, "application/xml")

    def _rates(self, since: str) -> None:
        if self._taken(_RATES, None) is None:
            return None
        mode = self.server.modes[_RATES]
        if mode == "slow":
            time.sleep(6)
        try:
            first = max(date.fromisoformat(since), date.today() - timedelta(days=400))
        except ValueError:
            return self.say(400, "{}")
        days = [first + timedelta(days=n) for n in range((date.today() - first).days + 1)]
        # Banks keep their week.
        rates = {
            day.isoformat(): {
                code: str(worth + Decimal((day - _FIRST).days % 40 * step) / 10_000) for code, (worth, step) in _WORTH.items()
            }
            for day in days
            if day.weekday() < 5
        }
        if mode == "wrong":
            rates = {"soon": {"dollar": "many"}}
        return self.say(200, json.dumps({"base": "EUR", "worth": rates}))


def _prices(text: str, share: Decimal) -> list[tuple[int, Decimal]]:
    pairs = (pair.split("=") for pair in text.split())
    return [(int(start), (Decimal(price) * share).quantize(Decimal("0.00001"))) for start, price in pairs]


def _line(at: int, number: str, found: list[Any], share: Decimal, currency: str) -> str:
    """A line of a Quotation for each step of the price, told apart by the least quantity it holds for."""
    maker, article, prices, per, minimum, pack, stock, days = found
    said = []
    for step, (start, price) in enumerate(_prices(prices, share), 1):
        said.append(
            f"<cac:QuotationLine><cbc:ID>{at}.{step}</cbc:ID><cac:LineItem><cbc:ID>{at}.{step}</cbc:ID>"
            f'<cbc:MinimumQuantity unitCode="C62">{max(start, minimum)}</cbc:MinimumQuantity>'
            f'<cbc:MaximumQuantity unitCode="C62">{stock}</cbc:MaximumQuantity>'
            f"<cac:Delivery><cac:PromisedDeliveryPeriod><cbc:EndDate>{(date.today() + timedelta(days=days)).isoformat()}</cbc:EndDate>"
            f"</cac:PromisedDeliveryPeriod></cac:Delivery>"
            f"<cac:Price><cbc:PriceAmount currencyID={quoteattr(currency)}>{price}</cbc:PriceAmount>"
            f'<cbc:BaseQuantity unitCode="C62">{per}</cbc:BaseQuantity></cac:Price>'
            f'<cac:Item><cbc:PackQuantity unitCode="C62">{pack}</cbc:PackQuantity><cbc:Name>{escape(number)}</cbc:Name>'
            f"<cac:SellersItemIdentification><cbc:ID>{escape(article)}</cbc:ID></cac:SellersItemIdentification>"
            f"<cac:ManufacturersItemIdentification><cbc:ID>{escape(number)}</cbc:ID></cac:ManufacturersItemIdentification>"
            f"<cac:ManufacturerParty><cac:PartyName><cbc:Name>{escape(maker)}</cbc:Name></cac:PartyName></cac:ManufacturerParty></cac:Item>"
            f"</cac:LineItem></cac:QuotationLine>"
        )
    return "".join(said)


def serve(port: int) -> None:
    """Serve until the process is ended."""
    Server(port).serve_forever()


if __name__ == "__main__":
    serve(int(sys.argv[1]))
