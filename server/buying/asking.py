"""What suppliers' services can be asked for a plan, and what of their answers is kept."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from definition.models.parts import MakerNumber, Part
from django.db import transaction
from django.db.models import Q
from django.utils.timezone import now
from outside.offered import ServiceOffer
from outside.services import SupplierService, supplier_services
from partners.models import Partner
from tally_core.pairing.numbers import fold

from buying.models import Asked, BuyPlan, Offer, Terms
from buying.offered import checked_offer

__all__ = ["Askable", "askable", "keep_answer"]

#: By whom an offer is let go that a later answer replaces.
_SERVICE = "the service"
_SAME = (
    "maker",
    "maker_number",
    "their_number",
    "currency",
    "unit",
    "breaks",
    "minimum",
    "multiple",
    "available",
    "lead_days",
    "valid_from",
    "valid_to",
)


@dataclass(slots=True)
class Askable:
    """A supplier whose service can be asked for a plan.

    Attributes:
        numbers: makers' numbers that it may sell, of the parts that the plan needs.
        waiting: those of them of which nothing is known that still holds.
        last: when it was last asked for one of them.
    """

    partner: Partner
    name: str
    service: SupplierService
    numbers: list[str] = field(default_factory=list)
    waiting: list[str] = field(default_factory=list)
    last: datetime | None = None


def askable(plan: BuyPlan) -> tuple[list[Askable], dict[str, list[Part]]]:
    """The suppliers that can be asked, and the parts of each folded number. A fixed number of queries; raises TallyError.

    Only approved makers' numbers are asked for: by our own number, or by what a part is called, nobody outside knows it.
    """
    services = supplier_services()
    terms = list(Terms.objects.exclude(service="").filter(service__in=services).select_related("partner"))
    parts: dict[str, list[Part]] = defaultdict(list)
    makers: dict[str, tuple[str, str]] = {}
    taken = Q(part__in=plan.needs.values("part")) | Q(part__in=plan.alternates.values("part"))
    numbers = MakerNumber.objects.filter(taken).select_related("part").order_by("part", "rank")
    for row in numbers if terms else ():
        folded = fold(row.number)[:200]
        if folded:
            parts[folded].append(row.part)
            makers.setdefault(folded, (row.number, fold(row.maker_id or "")))
    known: dict[tuple[str, str], datetime] = {
        (a.supplier_id or "", a.folded): a.asked_at
        for a in Asked.objects.filter(supplier__in=[t.partner_id for t in terms], folded__in=parts)
    }
    found = []
    for of in terms:
        service = services[of.service]
        since = now() - timedelta(hours=service.holds_hours)
        only, never = set(map(fold, of.only_makers)), set(map(fold, of.not_makers))
        one = Askable(of.partner, of.service, service)
        for folded, (number, maker) in makers.items():
            if (only and maker not in only) or maker in never:
                continue
            one.numbers.append(number)
            at = known.get((of.partner_id, folded))
            one.last = max(filter(None, (one.last, at)), default=None)
            if at is None or at < since:
                one.waiting.append(number)
        found.append(one)
    return sorted(found, key=lambda a: a.partner.name), parts


def keep_answer(of: Askable, number: str, said: ServiceOffer | None, parts: Iterable[Part], by: str) -> tuple[int, list[str]]:
    """Keep what a service said of a number: how many offers are others now, and what of it could not be used, in words.

    An offer that says the same as the last one of this service is only confirmed; another one takes its place, and the one before stays
    among those let go. None: what it offered before does not hold any more.
    """
    changed, wrong = 0, []
    moment = now()
    with transaction.atomic():
        Asked.objects.update_or_create(
            supplier=of.partner, folded=fold(number)[:200], defaults={"asked_at": moment, "offered": said is not None}
        )
        for part in parts:
            new, problems = (None, []) if said is None else _offer(part, said, of)
            if problems:
                wrong += [f"{part.number}: {words}" for words in problems]
                continue
            held = [
                o
                for o in Offer.objects.select_for_update().filter(part=part, supplier=of.partner, source="service", let_go_at=None)
                if fold(o.maker_number) == fold(number)
            ]
            same = next((o for o in held if new and _plain(o) == _plain(new)), None)
            gone = [o.pk for o in held if o is not same]
            Offer.objects.filter(pk__in=gone).update(let_go_at=moment, let_go_by=_SERVICE)
            if same:
                Offer.objects.filter(pk=same.pk).update(confirmed_at=moment)
            elif new:
                new.supplier, new.taken_by, new.source, new.source_words = of.partner, by, "service", of.name
                new.offered_at = moment
                new.save()
            changed += bool(gone) or (new is not None and same is None)
    return changed, wrong


def _offer(part: Part, said: ServiceOffer, of: Askable) -> tuple[Offer, list[str]]:
    texts: dict[str, Any] = {
        name: "" if (value := getattr(said, name)) is None else f"{value:f}" if name in ("minimum", "multiple", "available") else str(value)
        for name in (
            "maker",
            "maker_number",
            "their_number",
            "currency",
            "unit",
            "minimum",
            "multiple",
            "available",
            "lead_days",
            "valid_to",
        )
    }
    texts["breaks"] = [[f"{b.start:f}", f"{b.price / b.per:f}"] for b in said.breaks]
    offer, problems, _ = checked_offer(part, texts, of.partner.currency)
    return offer, [f"{p.place}: {p.message}" for p in problems]


def _plain(offer: Offer) -> list[Any]:
    return [getattr(offer, name) for name in _SAME]
