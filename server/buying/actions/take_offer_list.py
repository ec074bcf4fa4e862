"""Take a supplier's price list: rows of one part become one offer with its price breaks; the good ones, or none."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from accounts.access import require
from definition.models.parts import MakerNumber, Part, Workspace
from django.db import transaction
from django.db.models.functions import Upper
from partners.models import Partner
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.lists.cells import Cell
from tally_core.lists.titled import TitledList, TitledRow
from tally_core.pairing.numbers import fold

from buying.models import Offer
from buying.offered import checked_offer

__all__ = ["OfferList", "take_offer_list"]

#: The columns of a list, by what their titles may be.
_COLUMNS = {
    "part": ("part", "part number", "your number", "our part"),
    "their_number": ("their number", "article", "article number", "order code", "number"),
    "maker": ("maker", "manufacturer"),
    "maker_number": ("maker's number", "mpn", "manufacturer part number", "type"),
    "from": ("from", "quantity", "from quantity", "break"),
    "price": ("price", "unit price", "each"),
    "price_per": ("per", "price per", "price unit"),
    "currency": ("currency",),
    "unit": ("unit",),
    "minimum": ("minimum", "smallest order", "moq"),
    "multiple": ("pack", "packs of", "multiple"),
    "available": ("available", "stock", "there now"),
    "lead_days": ("days", "lead time", "lead days"),
    "valid_from": ("valid from",),
    "valid_to": ("valid to", "valid until", "holds to"),
}
_NUMBERS = ("from", "price", "price_per", "minimum", "multiple", "available", "lead_days")
_DAYS = ("valid_from", "valid_to")
_MOST_ROWS = 20_000
_MOST_TOLD = 200


@dataclass(slots=True)
class OfferList:
    """``good``: offers that can be kept, ``kept``: those that were; what is wrong by its row, and what is worth a look."""

    good: int = 0
    kept: int = 0
    wrong: int = 0
    problems: list[str] = field(default_factory=list)
    look: list[str] = field(default_factory=list)


def take_offer_list(
    user: Any, code: str, rows: Sequence[Sequence[Cell]], name: str, anyway: bool, *, answers: bool = False
) -> OfferList:
    """Keep the offers of a list whose first row holds titles, for the supplier of a code.

    Where a row is wrong nothing is kept, unless ``anyway``: then all but the wrong ones are. A part is found by our number, by a maker's
    number that is approved for it, or by how this supplier called it before. Raises ProblemsError for a list without the columns that
    are needed, MissingError and Refused. ``answers``: they answer a request, named by ``name``; a row without a price then says that they have
    none.
    """
    require(user, "buying")
    partner = Partner.objects.filter(code=code).first()
    if partner is None:
        raise MissingError(f"Partner {code} is not known.")
    listed = TitledList(rows, _COLUMNS, _NUMBERS)
    if "price" not in listed.columns or not {"part", "their_number", "maker_number"} & set(listed.columns):
        raise ProblemsError(
            [Problem("", "the list needs a column price, and one of part, their number or maker's number")]
        )
    if len(rows) > _MOST_ROWS:
        raise ProblemsError([Problem("", f"a list has at most {_MOST_ROWS:,} rows")])
    said = OfferList()
    offers = _offers(listed, partner, said, answers)
    said.good = len(offers)
    if offers and (anyway or not said.wrong):
        for offer in offers:
            offer.supplier, offer.taken_by, offer.source, offer.source_words = (
                partner,
                str(user),
                "answer" if answers else "list",
                name[:200],
            )
        with transaction.atomic():
            Offer.objects.bulk_create(offers, batch_size=1000)
        said.kept = len(offers)
    return said


def _offers(listed: TitledList, partner: Partner, said: OfferList, answers: bool) -> list[Offer]:
    parts = _Parts(listed, partner)
    groups: dict[tuple[Any, ...], list[TitledRow]] = defaultdict(list)
    for row in listed:
        if answers and not row.text("price"):
            continue
        part = parts.of(row)
        if part is None:
            named = row.text("part") or row.text("maker_number") or row.text("their_number")
            _wrong(said, row, f"{named[:40] or 'nothing'} is no part of ours")
            continue
        groups[part.pk, row.text("their_number"), row.text("maker_number"), row.text("currency")].append(row)
    currency = partner.currency or Workspace.the().currency
    offers = []
    for (key, *_), rows in groups.items():
        texts, broken = _texts(rows[0], said)
        breaks: list[list[str]] = []
        for row in rows:
            pair, bad = _pair(row, said, first=not breaks)
            broken |= bad
            breaks.append(pair)
        if broken:
            continue
        offer, problems, look = checked_offer(parts.by_key[key], texts | {"breaks": breaks}, currency)
        for problem in problems:
            _wrong(said, rows[0], f"{problem.place}: {problem.message}")
        if not problems:
            offers.append(offer)
            said.look += [f"row {rows[0].number}, {offer.part.number}: {words}" for words in look][
                : _MOST_TOLD - len(said.look)
            ]
    return offers


def _wrong(said: OfferList, row: TitledRow, words: str) -> None:
    said.wrong += 1
    if len(said.problems) < _MOST_TOLD:
        said.problems.append(f"row {row.number}: {words}")


def _texts(row: TitledRow, said: OfferList) -> tuple[dict[str, str], bool]:
    """What the first row of an offer states besides its price, as text; and whether something of it cannot be read."""
    texts = {name: row.text(name) for name in ("maker", "maker_number", "their_number", "currency", "unit")}
    broken = False
    for name in ("price_per", "minimum", "multiple", "available", "lead_days"):
        try:
            number = row.amount(name)
            texts[name] = "" if number is None else f"{number:f}"
        except ValueError as error:
            _wrong(said, row, f"{_COLUMNS[name][0]}: {error}")
            broken = True
    for name in _DAYS:
        try:
            day = row.day(name)
            texts[name] = day.isoformat() if day else ""
        except ValueError:
            _wrong(said, row, f"{_COLUMNS[name][0]}: a day is written like 2027-01-31")
            broken = True
    return texts, broken


def _pair(row: TitledRow, said: OfferList, first: bool) -> tuple[list[str], bool]:
    try:
        start, price = row.amount("from"), row.amount("price")
    except ValueError as error:
        _wrong(said, row, str(error))
        return ["", ""], True
    if price is None:
        _wrong(said, row, "the price is missing")
        return ["", ""], True
    return [f"{start:f}" if start is not None else "1" if first else "", f"{price:f}"], False


class _Parts:
    """The parts that the rows of a list name, found in three queries."""

    def __init__(self, listed: TitledList, partner: Partner) -> None:
        numbers = {row.text("part").upper() for row in listed}
        found = Part.objects.annotate(any_case=Upper("number")).filter(
            any_case__in=numbers, kind__in=("bought", "made")
        )
        self._by_number = {p.number.upper(): p for p in found}
        wanted = {fold(row.text("maker_number")) for row in listed} - {""}
        self._by_maker: dict[str, Part] = {}
        if wanted:
            for row in MakerNumber.objects.select_related("part"):
                if fold(row.number) in wanted:
                    self._by_maker.setdefault(fold(row.number), row.part)
        theirs = {row.text("their_number") for row in listed} - {""}
        before = Offer.objects.filter(supplier=partner, their_number__in=theirs).select_related("part")
        self._by_theirs = {o.their_number: o.part for o in before}
        every = (*self._by_number.values(), *self._by_maker.values(), *self._by_theirs.values())
        self.by_key = {part.pk: part for part in every}

    def of(self, row: TitledRow) -> Part | None:
        """The part of a row; None where nothing of it is known."""
        number = row.text("part").upper()
        if number:
            return self._by_number.get(number)
        return self._by_maker.get(fold(row.text("maker_number"))) or self._by_theirs.get(row.text("their_number"))
