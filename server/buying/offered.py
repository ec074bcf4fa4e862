"""An offer as it was typed or read, checked field by field and turned into what is kept."""

import re
from datetime import date
from decimal import Decimal
from itertools import pairwise
from typing import Any

from definition.models.parts import Part
from tally_core.basics.errors import Problem

from buying.models import Offer
from buying.needs import buying_unit, in_buying_units
from buying.typed_number import typed_number

__all__ = ["FIELDS", "checked_offer"]

#: What an offer states, beside its part and its supplier; all text.
FIELDS = (
    "maker",
    "maker_number",
    "their_number",
    "currency",
    "unit",
    "minimum",
    "multiple",
    "available",
    "lead_days",
    "valid_from",
    "valid_to",
    "price_per",
)
_MOST = Decimal("1e12")
_MOST_BREAKS = 50


def checked_offer(part: Part, given: dict[str, Any], currency: str) -> tuple[Offer, list[Problem], list[str]]:
    """The offer that some texts make, what is wrong with it, and what is worth a look.

    Args:
        given: names of ``FIELDS`` to text, and ``breaks`` as pairs of text. ``price_per``: prices are for so many.
        currency: that of the supplier, where the offer states none.
    """
    r = _Reader(given)
    offer = Offer(part=part, currency=(r.text("currency", 3) or currency).upper())
    offer.maker, offer.maker_number = r.text("maker", 200), r.text("maker_number", 200)
    offer.their_number = r.text("their_number", 200)
    offer.unit = r.text("unit", 20) or buying_unit(part)
    if not re.fullmatch(r"[A-Z]{3}", offer.currency):
        r.wrong("currency", "a currency has three letters, such as EUR")
    if in_buying_units(part, offer.unit) is None:
        r.wrong("unit", f"{offer.unit} does not convert into {buying_unit(part)}, in which {part.number} is bought")
    per = r.number("price_per", above=True) or Decimal(1)
    offer.minimum = r.number("minimum") or Decimal(0)
    offer.multiple = r.number("multiple", above=True)
    offer.available = r.number("available")
    lead = r.number("lead_days")
    if lead is not None and (lead % 1 or lead > 10_000):
        r.wrong("lead_days", "whole days, at most 10,000")
    offer.lead_days = int(lead or 0)
    offer.valid_from, offer.valid_to = r.day("valid_from"), r.day("valid_to")
    if offer.valid_from and offer.valid_to and offer.valid_to < offer.valid_from:
        r.wrong("valid_to", "it ends before it begins")
    breaks = r.breaks(per)
    offer.breaks = [[f"{start.normalize():f}", f"{price.normalize():f}"] for start, price in breaks]
    return offer, r.problems, _worth_a_look(offer, breaks)


def _worth_a_look(offer: Offer, breaks: list[tuple[Decimal, Decimal]]) -> list[str]:
    found = []
    for (start, price), (later, dearer) in pairwise(breaks):
        if dearer > price:
            found.append(
                f"the price rises from {price.normalize():f} at {start.normalize():f} to {dearer.normalize():f} at {later.normalize():f}"
            )
    if breaks and breaks[0][1] == 0:
        found.append("it costs nothing")
    if offer.available is not None and breaks and offer.available < breaks[0][0]:
        found.append("less is available than the smallest quantity that has a price")
    return found


class _Reader:
    def __init__(self, given: dict[str, Any]) -> None:
        self.given, self.problems = given, []  # type: dict[str, Any], list[Problem]

    def wrong(self, field: str, message: str) -> None:
        self.problems.append(Problem(field, message))

    def text(self, field: str, most: int) -> str:
        text = " ".join(str(self.given.get(field) or "").split())
        if len(text) > most or not text.isprintable():
            self.wrong(field, f"at most {most} characters that can be printed")
            return ""
        return text

    def number(self, field: str, *, above: bool = False) -> Decimal | None:
        text = str(self.given.get(field) or "").strip()
        return self.decimal(field, text, above=above) if text else None

    def decimal(self, place: str, text: str, *, above: bool = False) -> Decimal | None:
        number = typed_number(text)
        if number is None or number < 0 or (above and number == 0) or number >= _MOST:
            self.wrong(place, f"a number {'above' if above else 'from'} 0, not {text[:30]!r}")
            return None
        if number != number.quantize(Decimal("1e-9")):
            self.wrong(place, "at most nine decimals")
            return None
        return number

    def day(self, field: str) -> date | None:
        text = str(self.given.get(field) or "").strip()
        try:
            return date.fromisoformat(text) if text else None
        except ValueError:
            self.wrong(field, "a day as year-month-day")
            return None

    def breaks(self, per: Decimal) -> list[tuple[Decimal, Decimal]]:
        found: dict[Decimal, Decimal] = {}
        for at, pair in enumerate(list(self.given.get("breaks") or [])[:_MOST_BREAKS]):
            start_text, price_text = (str(x or "").strip() for x in pair)
            if not price_text:
                if start_text:
                    self.wrong(f"breaks[{at}].price", "the price is missing")
                continue
            start = self.decimal(f"breaks[{at}].from", start_text or ("1" if not found else ""))
            price = self.decimal(f"breaks[{at}].price", price_text)
            if start is None or price is None:
                continue
            if start in found:
                self.wrong(f"breaks[{at}].from", f"two prices from {start.normalize():f} on")
            found[start] = price / per
        if not found and not self.problems:
            self.wrong("breaks", "an offer has at least one price")
        return sorted(found.items())
