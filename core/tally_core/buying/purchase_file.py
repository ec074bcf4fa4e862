"""A purchase as a file, and its plan as one: the contract of ``./tally plan``."""

from collections.abc import Callable
from datetime import date
from decimal import ROUND_FLOOR, ROUND_HALF_EVEN, Decimal, localcontext
from typing import Any

from ..basics.errors import Problem, ProblemsError
from ..stated.reading import RecordReader, show_value
from .offers import EXACT, Break, Need, Offer, Purchase, Supplier
from .orders import Plan

__all__ = ["FORMAT", "VERSION", "plan_as_json", "read_purchase"]

FORMAT, VERSION = "round-tally-purchase", 1
_MOST = Decimal("1e12")
_SIX, _TWELVE = Decimal("0.000001"), Decimal("0.000000000001")


def read_purchase(document: Any) -> Purchase:
    """A purchase out of plain JSON values.

    An offer without a multiple is bought in whole numbers where its part is needed in whole numbers, in any amount otherwise.

    Raises ProblemsError that names all that is wrong, each by its place.
    """
    r = _Reader()
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ProblemsError([Problem("format", f'a purchase says "format": "{FORMAT}"')])
    if document.get("version") != VERSION:
        raise ProblemsError([Problem("version", f"this reads version {VERSION}, not {show_value(document.get('version'))}")])
    currency = r.need(r.text, document, "currency", "")
    day = r.need(r.day, document, "day", "")
    suppliers = r.suppliers(document)
    needs = r.needs(document)
    rates = r.rates(document, currency)
    whole = {need.part for need in needs} - {need.part for need in needs if need.quantity % 1}
    offers = r.offers(document, suppliers, rates, currency, whole)
    split = r.optional(r.integer, document, "split", "", 1)
    surplus = r.amount(document, "surplus_percent", "", None)
    worth = r.amount(document, "surplus_worth_percent", "", Decimal(0))
    hold = r.optional(r.flag, document, "hold_to_days", "", True)
    if split is not None and split < 1:
        r.wrong("split", f"a need is covered by at least one offer, not {split}")
    if worth is not None and worth > 100:
        r.wrong("surplus_worth_percent", "a surplus is worth at most what was paid for it: 100")
    if r.problems:
        raise ProblemsError(r.problems)
    assert day is not None and split is not None and worth is not None and hold is not None
    return Purchase(currency or "", day, suppliers, needs, offers, rates, split, surplus, worth, hold)


class _Reader(RecordReader):
    def need(self, read: Callable[[Any, str], Any], record: dict[str, Any], name: str, place: str) -> Any:
        """A field that must be there and not empty."""
        where = f"{place}.{name}" if place else name
        if record.get(name) in (None, ""):
            self.wrong(where, "this is needed")
            return None
        return read(record[name], where)

    def optional(self, read: Callable[[Any, str], Any], record: dict[str, Any], name: str, place: str, default: Any) -> Any:
        if record.get(name) is None:
            return default
        return read(record[name], f"{place}.{name}" if place else name)

    def amount(self, record: dict[str, Any], name: str, place: str, default: Any, *, above: bool = False) -> Any:
        """A number from 0 on, or above it; not too large, and with at most twelve decimals."""
        where = f"{place}.{name}" if place else name
        number = self.optional(self.decimal, record, name, place, default)
        if number is None or number is default:
            return number
        exponent = number.as_tuple().exponent
        if number < 0 or (above and number == 0) or number >= _MOST:
            self.wrong(where, f"a number {'above' if above else 'from'} 0 is needed, not {show_value(record[name])}")
            return None
        if isinstance(exponent, int) and exponent < -12:
            self.wrong(where, "more than twelve decimals")
            return None
        return number

    def records(self, record: dict[str, Any], name: str, place: str = "") -> list[tuple[str, dict[str, Any]]]:
        where = f"{place}.{name}" if place else name
        found = []
        for at, one in enumerate(self.many(record.get(name) or [], where)):
            if isinstance(one, dict):
                found.append((f"{where}[{at}]", one))
            else:
                self.wrong(f"{where}[{at}]", f"an object is needed, not {show_value(one)}")
        return found

    def suppliers(self, document: dict[str, Any]) -> dict[str, Supplier]:
        found: dict[str, Supplier] = {}
        for place, record in self.records(document, "suppliers"):
            code = self.need(self.text, record, "code", place)
            if code in found:
                self.wrong(f"{place}.code", f"{code} stands here twice")
            elif code:
                found[code] = Supplier(
                    code,
                    self.amount(record, "freight", place, Decimal(0)) or Decimal(0),
                    self.amount(record, "minimum_order", place, Decimal(0)) or Decimal(0),
                    self.amount(record, "small_order_charge", place, None),
                )
        return found

    def needs(self, document: dict[str, Any]) -> tuple[Need, ...]:
        found = []
        for place, record in self.records(document, "needs"):
            part = self.need(self.text, record, "part", place)
            quantity = self.amount(record, "quantity", place, None)
            if record.get("quantity") is None:
                self.wrong(f"{place}.quantity", "this is needed")
            by: date | None = self.optional(self.day, record, "by", place, None)
            if part and quantity is not None:
                found.append(Need(part, quantity, by))
        return tuple(found)

    def rates(self, document: dict[str, Any], currency: str | None) -> dict[str, Decimal]:
        rates = document.get("rates") or {}
        if not isinstance(rates, dict):
            self.wrong("rates", f"an object is needed, not {show_value(rates)}")
            return {}
        found = {code: self.amount(rates, code, "rates", None, above=True) for code in rates}
        if currency in found and found[currency] != 1:
            self.wrong(f"rates.{currency}", f"{currency} is the currency of the plan: its rate is 1")
        return {code: rate for code, rate in found.items() if rate is not None}

    def offers(
        self, document: dict[str, Any], suppliers: dict[str, Supplier], rates: dict[str, Decimal], currency: str | None, whole: set[str]
    ) -> tuple[Offer, ...]:
        found = []
        for place, record in self.records(document, "offers"):
            part = self.need(self.text, record, "part", place)
            supplier = self.need(self.text, record, "supplier", place)
            if supplier and supplier not in suppliers:
                self.wrong(f"{place}.supplier", f"{supplier} is not among the suppliers")
            own = self.optional(self.text, record, "currency", place, None) or currency or ""
            if own != currency and own not in (document.get("rates") or {}):
                self.wrong(f"{place}.currency", f"no rate is stated for {own}")
            number = self.optional(self.text, record, "number", place, "") or ""
            breaks = self.breaks(record, place)
            multiple = self.amount(record, "multiple", place, None, above=True)
            lead = self.optional(self.integer, record, "lead_days", place, 0)
            if lead is not None and lead < 0:
                self.wrong(f"{place}.lead_days", f"days are counted from 0 on, not {lead}")
            offer = Offer(
                part or "",
                supplier or "",
                number,
                own,
                breaks,
                minimum=self.amount(record, "minimum", place, Decimal(0)) or Decimal(0),
                multiple=Decimal(1) if multiple is None and part in whole else multiple,
                available=self.amount(record, "available", place, None),
                lead_days=lead or 0,
                valid_from=self.optional(self.day, record, "valid_from", place, None),
                valid_to=self.optional(self.day, record, "valid_to", place, None),
            )
            found.append(offer)
        return tuple(found)

    def breaks(self, record: dict[str, Any], place: str) -> tuple[Break, ...]:
        found = []
        for where, one in self.records(record, "breaks", place):
            price = self.amount(one, "price", where, None)
            if one.get("price") is None:
                self.wrong(f"{where}.price", "this is needed")
            start = self.amount(one, "from", where, Decimal(0))
            if price is not None and start is not None:
                found.append(Break(start, price))
        starts = [b.start for b in found]
        for start in sorted({s for s in starts if starts.count(s) > 1}):
            self.wrong(f"{place}.breaks", f"two prices from {start:f} on")
        if not found and not record.get("breaks"):
            self.wrong(f"{place}.breaks", "an offer has at least one price")
        return tuple(sorted(found, key=lambda b: b.start))


def plan_as_json(plan: Plan) -> dict[str, Any]:
    """A plan in plain JSON values, as the contract has it; the bound rounded down, all else half-even.

    Prices keep up to twelve decimals: thousands of a part at a tenth of a cent in another currency would not add up with six.
    """
    with localcontext(EXACT):
        return {
            "total": _text(plan.bought.total),
            "bound": _text(min(plan.bound.quantize(_SIX, ROUND_FLOOR), plan.bought.total.quantize(_SIX, ROUND_HALF_EVEN))),
            "line_by_line": None if plan.line_by_line is None else _text(plan.line_by_line),
            "credit": _text(plan.bought.credit),
            "finished": plan.finished,
            "orders": [
                {
                    "supplier": order.supplier,
                    "goods": _text(order.goods),
                    "freight": _text(order.freight),
                    "charge": _text(order.charge),
                    "lines": [
                        {
                            "part": line.part,
                            "number": line.number,
                            "quantity": _text(line.quantity),
                            "price": _price(line.price),
                            "cost": _text(line.cost),
                            "surplus": _text(line.surplus),
                        }
                        for line in order.lines
                    ],
                }
                for order in plan.bought.orders
            ],
            "uncovered": [{"part": u.part, "reason": u.reason, "detail": u.detail} for u in plan.uncovered],
        }


def _text(number: Decimal) -> str:
    return f"{number.quantize(_SIX, ROUND_HALF_EVEN):f}"


def _price(price: Decimal) -> str:
    exact = price.quantize(_TWELVE, ROUND_HALF_EVEN).normalize()
    return f"{exact if exact.quantize(_SIX) != exact else exact.quantize(_SIX):f}"
