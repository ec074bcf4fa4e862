"""What the definition has for somebody today. Each heap takes a fixed number of queries."""

from collections.abc import Callable
from datetime import timedelta
from typing import Any

from definition.models.parts import OpenOrder, Part
from definition.models.sheets import BuildSheet, Line, Operation
from definition.models.work_centers import FinishedWork, WorkCenter
from definition.records import plain_decimal
from django.db.models import DecimalField, Exists, F, OuterRef, Q
from django.db.models.functions import Abs, Cast
from django.utils.timezone import localdate
from loading.standards import MILLION
from standards.models import Standard
from tally_core.basics.kinds import PART_KIND

from readings.heaps import Heap, Row, heap_of, listed, part_address, sheet_address
from readings.survey import revision_words

__all__ = [
    "GUIDE",
    "changed_last",
    "drifted_prices",
    "due_orders",
    "first_steps",
    "last_buy",
    "days_in_force",
    "made_orders",
    "no_price",
    "no_routing",
    "products",
    "reported_last",
]

_SOON = timedelta(days=30)
_ORDERS_SOON = timedelta(days=14)
_USED = Exists(Line.objects.filter(part=OuterRef("pk")).exclude(sheet__status="retired"))
_PRICED = [name for name, kind in PART_KIND.items() if kind.priced_as]


def _sheet_row(sheet: BuildSheet, more: str, urgent: bool = False) -> Row:
    name = f"{sheet.part.number}, {revision_words(sheet.alternate, sheet.revision)}"
    return Row(name, sheet.part.description, more, sheet_address(sheet.part.number, sheet.pk), urgent)


def _part_row(part: Part, more: str, urgent: bool = False) -> Row:
    return Row(part.number, part.description, more, part_address(part.number), urgent)


def days_in_force(user: Any) -> Heap:
    """Released sheets that begin or end within a month."""
    today = localdate()
    soon = (today, today + _SOON)
    found = BuildSheet.objects.filter(
        Q(effective_from__range=(today + timedelta(days=1), soon[1])) | Q(effective_to__range=soon), status="released"
    )

    def words(sheet: BuildSheet) -> str:
        begins = sheet.effective_from and sheet.effective_from > today
        day = sheet.effective_from if begins else sheet.effective_to
        return f"{'begins' if begins else 'ends'} on {day:%d %b %Y}"

    return heap_of(found.select_related("part").order_by("effective_to", "effective_from"), lambda s: _sheet_row(s, words(s)))


def no_price(user: Any) -> Heap:
    """Parts that sheets take and nobody has a price for."""
    found = Part.objects.filter(_USED, kind__in=_PRICED, unit_cost=None, given_cost=None).exclude(lifecycle="obsolete")
    return heap_of(found.order_by("number"), lambda p: _part_row(p, p.supplier_id or "no supplier"), "/findings?code=no-cost")


def no_routing(user: Any) -> Heap:
    """Made parts on released sheets of which nobody says how they are made."""
    worked = Exists(Operation.objects.filter(sheet__part=OuterRef("pk")).exclude(sheet__status="retired"))
    # Few sheets are bare: begun with them, few parts are left to look at.
    bare = BuildSheet.objects.exclude(status="retired").filter(~Exists(Operation.objects.filter(sheet=OuterRef("pk"))))
    found = Part.objects.filter(pk__in=bare.values("part"), kind="made", given_cost=None).exclude(worked).exclude(lifecycle="obsolete")
    return heap_of(
        found.order_by("number"),
        lambda p: Row(p.number, p.description, "lines, but no operation", sheet_address(p.number)),
        "/findings?code=no-routing",
    )


def last_buy(user: Any) -> Heap:
    """Parts at their last buy, or ended, that sheets still take."""
    found = Part.objects.filter(_USED, lifecycle__in=("last_buy", "obsolete")).order_by("-lifecycle", "number")
    return heap_of(found, lambda p: _part_row(p, p.lifecycle.replace("_", " "), p.lifecycle == "obsolete"))


def _orders(made: bool) -> Heap:
    today = localdate()
    kinds = ("made", "phantom")
    found = OpenOrder.objects.filter(due_on__lte=today + _ORDERS_SOON).select_related("part").order_by("due_on", "order")
    # Those of our own work orders stand with them.
    found = found.filter(part__kind__in=kinds, kept=False) if made else found.exclude(part__kind__in=kinds)

    def row(order: OpenOrder) -> Row:
        assert order.due_on is not None
        late = (today - order.due_on).days
        when = f"{late} {'day' if late == 1 else 'days'} late" if late > 0 else "today" if not late else f"on {order.due_on:%d %b}"
        what = f"{plain_decimal(order.quantity)} {order.part.unit} of {order.part.number} {order.part.description}".strip()
        return Row(order.order, what, when, part_address(order.part.number), late > 0)

    return heap_of(found, row)


def due_orders(user: Any) -> Heap:
    """Orders at suppliers that are due within two weeks, the late ones first."""
    return _orders(made=False)


def made_orders(user: Any) -> Heap:
    """Orders of our own shop that came with lists and are due within two weeks, the late ones first."""
    return _orders(made=True)


def reported_last(user: Any) -> Heap:
    """Operations of finished orders as they were reported last."""
    found = FinishedWork.objects.select_related("part").filter(reversed_at=None).order_by("-finished_on", "-id")
    return heap_of(
        found,
        lambda w: Row(
            w.order,
            f"operation {w.sequence} of {w.part.number}, {plain_decimal(w.quantity)} {w.part.unit}",
            f"{w.finished_on:%d %b %Y}",
            sheet_address(w.part.number),
        ),
        "/work-centers?finished=1",
    )


def drifted_prices(user: Any) -> Heap:
    """Bought parts whose price is no longer what their standard was made from, the largest share first."""
    exact = DecimalField(max_digits=30, decimal_places=9)
    unit = Cast(F("unit"), exact) / MILLION
    now = F("part__unit_cost") * (1 + F("part__overhead_percent") / 100)
    later = Standard.objects.filter(part=OuterRef("part"), first_day__gt=OuterRef("first_day"), first_day__lte=localdate())
    found = (
        Standard.objects.filter(first_day__lte=localdate(), unit__gt=0, part__given_cost=None, part__markup_percent=None, part__prices=[])
        .exclude(part__unit_cost=None)
        .filter(~Exists(later))
        .annotate(drift=Cast((now - unit) / unit * 100, exact))
        .annotate(far=Abs("drift"))
        .filter(far__gt=0.005)
        .select_related("part", "round")
    )
    return heap_of(found.order_by("-far", "part__number"), lambda s: _part_row(s.part, f"{s.drift:+.1f} % since {s.round.name}"))


def products(user: Any) -> Heap:
    """What is made and stands in nothing else, or is sold."""
    released = Exists(BuildSheet.objects.filter(part=OuterRef("pk"), status="released"))
    found = Part.objects.filter(released, Q(sold=True) | ~_USED, kind="made").order_by("number")
    return heap_of(found, lambda p: Row(p.number, p.description, "", sheet_address(p.number)))


def changed_last(user: Any) -> Heap:
    """The sheets changed last, whoever did it."""
    found = BuildSheet.objects.select_related("part").order_by("-changed_at")
    return heap_of(found, lambda s: _sheet_row(s, listed([s.status, f"{s.changed_at:%d %b}", s.changed_by])), "/sheets")


#: The first steps of an empty workspace: what, why, where, and whether it is done.
GUIDE: tuple[tuple[str, str, str, Callable[[], bool]], ...] = (
    ("Make a work center", "where work is done, and what an hour of it costs", "/work-centers?new=1", WorkCenter.objects.exists),
    ("Make a made part", "its sheet opens at once", "/parts?new=1&kind=made", Part.objects.filter(kind="made").exists),
    ("Type what it takes", "part numbers that nobody knows yet are made on the way", "/sheets", Line.objects.exists),
    ("Type how it is made", "an operation at the work center, with its minutes: then it has a cost", "/sheets", Operation.objects.exists),
)


def first_steps() -> list[tuple[str, str, str, bool]]:
    """The guide of an empty workspace, each step with whether it is done; nothing once all are."""
    found = [(what, why, to, done()) for what, why, to, done in GUIDE]
    if all(done for *_, done in found):
        return []
    sheet = BuildSheet.objects.select_related("part").order_by("-changed_at").first()
    part = sheet.part if sheet else Part.objects.filter(kind="made").first()
    # The steps on a sheet lead to the one that is there.
    here = sheet_address(part.number) if part else "/sheets"
    return [(what, why, here if to == "/sheets" else to, done) for what, why, to, done in found]
