"""The offers of a list: rows of one part become one offer with its price breaks; the good ones are kept, or none."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from accounts.access import require
from definition.models.parts import MakerNumber, Part, Workspace
from django.db import transaction
from django.db.models import F, Func, TextField
from django.db.models.functions import Upper
from django.utils.timezone import now
from partners.models import Partner
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.lists.cells import Cell
from tally_core.lists.titled import TitledList, TitledRow
from tally_core.pairing.numbers import fold

from buying.models import Offer
from buying.offered import checked_offer
from buying.price_columns import COLUMNS, listed

__all__ = ["OfferList", "keep_offers", "let_go_earlier", "read_offers", "take_answer_list"]

_DAYS = ("valid_from", "valid_to")
#: Rows of an answer that is read while somebody waits.
_MOST_ROWS = 5_000
_MOST_TOLD = 200
#: Offers after which it is told how far it is.
_EVERY = 1000


@dataclass(slots=True)
class OfferList:
    """``good``: offers that can be kept, ``kept``: those that were, ``replaced``: earlier ones of lists that went for them; what is wrong by
    its row, and what is worth a look."""

    good: int = 0
    kept: int = 0
    replaced: int = 0
    wrong: int = 0
    problems: list[str] = field(default_factory=list)
    look: list[str] = field(default_factory=list)


def take_answer_list(user: Any, partner: Partner, rows: Sequence[Sequence[Cell]], name: str, anyway: bool) -> OfferList:
    """Keep the offers of a list that answers a request, named by ``name``; a row without a price says that they have none.

    Where a row is wrong nothing is kept, unless ``anyway``: then all but the wrong ones are. Raises ProblemsError for a list without
    the columns that are needed, and Refused.
    """
    require(user, "buying")
    if len(rows) > _MOST_ROWS:
        raise ProblemsError([Problem("", f"an answer has at most {_MOST_ROWS:,} rows")])
    said, offers = read_offers(listed(rows), partner, answers=True)
    if offers and (anyway or not said.wrong):
        said.kept = keep_offers(offers, partner, str(user), "answer", name)
    return said


def keep_offers(offers: Sequence[Offer], partner: Partner, by: str, source: str, words: str) -> int:
    """Keep some offers, all or none; answers how many."""
    for offer in offers:
        offer.supplier, offer.taken_by, offer.source, offer.source_words = partner, by, source, words[:200]
    with transaction.atomic():
        Offer.objects.bulk_create(offers, batch_size=1000)
    return len(offers)


def let_go_earlier(offers: Sequence[Offer], partner: Partner) -> int:
    """Let go of what earlier lists of a supplier said of the same numbers: a later list takes their place. Answers how many."""

    def what(offer: Offer) -> tuple[Any, ...]:
        return offer.part_id, offer.their_number, fold(offer.maker_number), offer.currency

    said = {what(o) for o in offers}
    before = Offer.objects.filter(supplier=partner, source="list", let_go_at=None, part__in={o.part_id for o in offers})
    gone = [o.pk for o in before.select_for_update() if what(o) in said]
    return Offer.objects.filter(pk__in=gone).update(let_go_at=now(), let_go_by="a later list")


def read_offers(
    listed: TitledList, partner: Partner, *, answers: bool = False, goes_on: Callable[[int], None] = lambda done: None
) -> tuple[OfferList, list[Offer]]:
    """The offers of a list, and what is wrong with the others, by row; saves nothing.

    A part is found by our number, by a maker's number that is approved for it, or by how this supplier called it before. ``goes_on`` is
    told how many parts were read; it may raise to end it.
    """
    said = OfferList()
    offers = _offers(listed, partner, said, answers, goes_on)
    said.good = len(offers)
    return said, offers


def _offers(listed: TitledList, partner: Partner, said: OfferList, answers: bool, goes_on: Callable[[int], None]) -> list[Offer]:
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
        key = (part.pk, row.text("their_number"), fold(row.text("maker_number")), row.text("currency"))
        groups[key].append(row)
    currency = partner.currency or Workspace.the().currency
    offers = []
    for done, ((key, *_), rows) in enumerate(groups.items()):
        if done % _EVERY == 0:
            goes_on(done)
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
            said.look += [f"row {rows[0].number}, {offer.part.number}: {words}" for words in look][: _MOST_TOLD - len(said.look)]
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
            _wrong(said, row, f"{COLUMNS[name][0]}: {error}")
            broken = True
    for name in _DAYS:
        try:
            day = row.day(name)
            texts[name] = day.isoformat() if day else ""
        except ValueError:
            _wrong(said, row, f"{COLUMNS[name][0]}: a day is written like 2027-01-31")
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
        found = Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=numbers, kind__in=("bought", "made"))
        self._by_number = {p.number.upper(): p for p in found}
        wanted = {fold(row.text("maker_number")) for row in listed} - {""}
        self._by_maker: dict[str, Part] = {}
        if wanted:
            # Folded as ``fold`` does; those that differ are passed over.
            folded = Func(
                F("number"),
                template="regexp_replace(upper(normalize(%(expressions)s, NFKC)), '[^0-9A-Z+#]+', '', 'g')",
                output_field=TextField(),
            )
            approved = MakerNumber.objects.annotate(folded=folded).filter(folded__in=wanted).order_by("id")
            for row in approved.select_related("part"):
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
