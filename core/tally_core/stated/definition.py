"""A definition as plain records: parts, work centers, build sheets with their lines and operations.

Quantities, costs and percentages are Decimals; minutes are minutes; a day is a ``datetime.date``. A record holds
what the user stated: ``None`` means that nothing was stated.
"""

from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal

from ..basics.facts import of
from ..basics.kinds import FIELD_KINDS, GIVEN_AS, LIFECYCLES, LINE_KINDS, LISTS, PART_KINDS, ROLL_UPS, RUN_BASES, STATUSES

__all__ = [
    "ClassField",
    "Definition",
    "Line",
    "MakerNumber",
    "Operation",
    "Part",
    "PartClass",
    "PriceChange",
    "RateChange",
    "Resource",
    "Sheet",
    "StandardOperation",
    "Stop",
    "Subcontract",
    "WorkCenter",
]

ZERO, ONE, HUNDRED = Decimal(0), Decimal(1), Decimal(100)


@dataclass(slots=True)
class RateChange:
    """Rates that hold from a day on; what is not stated stays as it was."""

    first_day: date
    labor_rate: Decimal | None = of(None, bound=">= 0")
    setup_labor_rate: Decimal | None = of(None, bound=">= 0")
    machine_rate: Decimal | None = of(None, bound=">= 0")
    overhead_per_hour: Decimal | None = of(None, bound=">= 0")
    overhead_percent_of_labor: Decimal | None = of(None, bound=">= 0")


@dataclass(slots=True)
class PriceChange:
    """What is paid for a unit from a day on."""

    first_day: date
    unit_cost: Decimal = of(bound=">= 0")


@dataclass(slots=True)
class MakerNumber:
    """A manufacturer's number that may be bought for a part; the lowest rank is the first choice."""

    number: str = of(most=120)
    maker: str = of("", most=120)
    package: str = of("", most=120)  # the case size, where it tells parts apart
    rank: int = of(1, bound="> 0")


@dataclass(slots=True)
class Stop:
    """A planned stop of a work center: from a moment up to another, by the shop's clock."""

    start: datetime
    end: datetime
    reason: str = ""


@dataclass(slots=True)
class WorkCenter:
    """A place where work is done; rates are per hour, in the currency of the definition."""

    code: str
    name: str = of("", most=200)
    group: str = ""  # the department or line it belongs to
    labor_rate: Decimal = of(ZERO, bound=">= 0", cause="rate", tried=True)
    # The labor rate when not stated.
    setup_labor_rate: Decimal | None = of(None, word="set-up labor rate", bound=">= 0", cause="rate", tried=True, clears=True)
    machine_rate: Decimal = of(ZERO, bound=">= 0", cause="rate", tried=True)
    overhead_per_hour: Decimal = of(ZERO, bound=">= 0", cause="rate", tried=True)
    overhead_percent_of_labor: Decimal = of(ZERO, word="overhead on labor, %", bound=">= 0", unit="%", cause="rate", tried=True)
    efficiency_percent: Decimal = of(HUNDRED, word="efficiency, %", bound="> 0", unit="%", cause="time", tried=True)
    stations: int = of(1, bound="> 0")
    # Of each station in percent, like "100, 100, 80", in the order in which they are taken; all alike when not stated.
    paces: str = of("", most=500)
    crew: Decimal = of(ONE, bound=">= 0")  # of a new operation here
    # Like "Mo-Fr 07:00-15:30"; a plain week of Mo-Fr 08:00-16:00 when not stated.
    shifts: str = of("", most=500)
    rates: list[RateChange] = field(default_factory=list)
    stops: list[Stop] = field(default_factory=list)


@dataclass(slots=True)
class ClassField:
    """One field of a class. Its name is letters, digits and underscores, so that expressions can use it."""

    name: str
    kind: str = of("text", among=FIELD_KINDS)
    unit: str = ""  # of a number or a computed field; shown beside it
    choices: list[str] = field(default_factory=list)
    expression: str = ""  # of a computed field
    rolls_up: str = of("", among=ROLL_UPS)  # over a structure (rule C6); the worst of choices is the last of them


@dataclass(slots=True)
class PartClass:
    """A class of parts. Numbers run prefix + so many digits, from ``start`` in ``step``; no digits, no scheme."""

    name: str
    prefix: str = ""
    digits: int = 0
    start: int = 1
    step: int = 1
    fields: list[ClassField] = field(default_factory=list)


@dataclass(slots=True)
class Part:
    """A part number. ``whole_only`` left open means: counted in whole units when its unit is a count."""

    number: str
    description: str = of("", most=2000)
    kind: str = of("bought", among=PART_KINDS)
    unit: str = "ea"
    unit_cost: Decimal | None = of(None, bound=">= 0", cause="price", tried=True)
    # By hand: instead of the roll-up.
    given_cost: Decimal | None = of(None, word="cost given by hand", bound=">= 0", cause="price", tried=True, clears=True)
    # Its elements: all of it in one, or in the proportion of the roll-up in whose place it stands.
    given_as: str = of("one_element", word="elements of a cost given by hand", among=GIVEN_AS, cause="price")
    # By hand: over the roll-up, where no cost is given.
    markup_percent: Decimal | None = of(None, word="markup by hand, %", unit="%", cause="price", tried=True)
    given_reason: str = of("", most=500)  # why either was given
    selling_price: Decimal | None = of(None, bound=">= 0")
    overhead_percent: Decimal = of(ZERO, word="material overhead, %", bound=">= 0", unit="%", cause="price", tried=True)
    costing_lot: Decimal | None = of(None, bound="> 0", cause="lot", tried=True, clears=True)
    whole_only: bool | None = None
    lead_time_days: int = of(0, bound=">= 0")
    lifecycle: str = of("active", among=LIFECYCLES)
    default_alternate: str | None = None  # the alternate that counts; the first one when not stated
    second_description: str = of("", most=4000)
    part_class: str = ""
    material: str = of("", most=200)
    mass_kg: Decimal | None = of(None, bound=">= 0")
    size_mm: str = of("", most=60)  # overall size: length x width x height
    buying_unit: str | None = None  # the stock unit when not stated
    stock_per_buying_unit: Decimal | None = of(None, bound="> 0")  # a conversion of this part's own: 1 roll = 50 m
    reorder_level: Decimal | None = of(None, bound=">= 0")  # in stock units, like the two that follow
    order_minimum: Decimal | None = of(None, bound=">= 0")
    order_multiple: Decimal | None = of(None, bound="> 0")
    kept_in: str = of("", most=60)  # the store, and where in it
    sold: bool = False  # a made part that is sold on its own, too
    supplier: str = of("", most=200)  # who it is bought from, and under which number
    supplier_number: str = of("", most=200)
    supplier_link: str = ""
    unmodelled: bool = False  # glue, grease, paint, labels: on no drawing, dropped into sheets in the amount used there
    own_values: dict[str, str] = field(default_factory=dict)  # of the fields of its class, by name
    prices: list[PriceChange] = field(default_factory=list)  # the unit cost from days on; before the first, ``unit_cost``


@dataclass(slots=True)
class Subcontract:
    """Work done outside: price per started unit, least charge per lot, days away."""

    supplier: str = of("", most=200)
    unit_price: Decimal = of(ZERO, word="price outside", bound=">= 0", cause="price", tried=True, column="outside_price")
    minimum_charge: Decimal = of(ZERO, bound=">= 0", cause="price", tried=True, column="outside_minimum")
    lead_days: int = of(0, bound=">= 0")


@dataclass(slots=True)
class Resource:
    """What works beside an operation at the same time, with a time and a crew of its own: a technician beside a machine.

    It starts what the operation starts, and takes as long for one of its cycles.
    """

    work_center: str
    setup_minutes: Decimal = of(ZERO, word="set-up, min", bound=">= 0")
    run_minutes: Decimal = of(ZERO, word="run, min", bound=">= 0")
    run_basis: str = of("per_unit", among=RUN_BASES)
    crew: Decimal = of(ONE, bound=">= 0")
    setup_crew: Decimal = of(ONE, word="set-up crew", bound=">= 0")


@dataclass(slots=True)
class Operation:
    """One step of a routing, at a work center or outside, never both."""

    sequence: int = of(10, bound="> 0")
    name: str = of("", most=200)
    work_center: str | None = None
    setup_minutes: Decimal = of(ZERO, word="set-up, min", bound=">= 0", unit="min", cause="time", tried=True)
    run_minutes: Decimal = of(ZERO, word="run, min", bound=">= 0", unit="min", cause="time", tried=True)
    run_basis: str = of("per_unit", among=RUN_BASES, cause="time")
    cycle_quantity: Decimal | None = of(None, bound="> 0", cause="time")
    crew: Decimal = of(ONE, bound=">= 0", unit="", cause="time", tried=True)
    setup_crew: Decimal = of(ONE, word="set-up crew", bound=">= 0", unit="", cause="time", tried=True)
    piece_rate: Decimal | None = of(None, bound=">= 0", cause="rate", tried=True, clears=True)
    yield_percent: Decimal = of(HUNDRED, word="yield, %", bound="> 0", unit="%", cause="usage", tried=True)
    queue_minutes: Decimal = of(ZERO, bound=">= 0")
    wait_minutes: Decimal = of(ZERO, bound=">= 0")
    move_minutes: Decimal = of(ZERO, bound=">= 0")
    after: list[int] = field(default_factory=list)  # the sequences it follows; the one before it when empty
    stations: int = of(1, bound="> 0")  # how many stations of its work center share the lot
    any_of_group: bool = False  # it may be done at any work center of that one's group; it costs what it costs there
    # When what follows may begin: when so many are done; the whole lot when not stated.
    transfer_quantity: Decimal | None = of(None, bound="> 0")
    subcontract: Subcontract | None = None
    instructions: str = ""  # for the shop, Markdown
    standard: str | None = None  # the standard operation it follows, and the version of it that it was taken from
    standard_version: int | None = None
    # The run time is the mean of so many finished orders; set by hand when not stated.
    run_from_orders: int | None = of(None, bound="> 0")
    # The run time was computed by this from fields of the part (``stated.run_times``); set otherwise where it is empty.
    run_expression: str = of("", most=300)
    resources: list[Resource] = field(default_factory=list)  # what works beside it


@dataclass(slots=True)
class StandardOperation:
    """An operation of the library; sequence and order of work are those of the routing it is put on."""

    code: str
    version: int = 1
    operation: Operation = field(default_factory=Operation)


@dataclass(slots=True)
class Line:
    """One line of a build sheet. A component without a quantity is as-needed (rule U5)."""

    item: int | None = of(None, bound=">= 0")
    item_locked: bool = False  # renumbering passes it by
    kind: str = of("component", among=LINE_KINDS)
    part: str | None = None
    quantity: Decimal | None = of(None, bound=">= 0", cause="usage", tried=True, tried_bound="> 0")
    unit: str | None = None  # the part's stock unit when not stated
    quantity_basis: str = of("per_unit", among=("per_unit", "per_lot"))
    scrap_percent: Decimal | None = of(None, word="scrap, %", bound=">= 0", unit="%", cause="usage", tried=True, clears=True)
    yield_percent: Decimal | None = of(None, word="yield, %", bound="> 0", unit="%", cause="usage", tried=True, clears=True)
    fixed_loss: Decimal = of(ZERO, word="fixed loss per lot", bound=">= 0", cause="usage", tried=True)
    issue_at: int | None = None
    option: str | None = None
    option_action: str = of("add", among=("add", "remove"))
    customer_supplied: bool = False
    not_fitted: bool = False
    reference_designators: list[str] = field(default_factory=list)
    effective_from: date | None = None
    effective_to: date | None = None
    text: str = of("", most=4000)
    # Where it is not shown. It counts all the same.
    kept_off: list[str] = of(factory=list, among=LISTS)
    # What is cut out of the part for one unit, as ``stated.cut_pieces`` reads it.
    cut: str = of("", most=200)


@dataclass(slots=True)
class Sheet:
    """One version of how a made part is built."""

    part: str
    alternate: str = "A"
    revision: str = "A"
    status: str = of("draft", among=STATUSES)
    effective_from: date | None = None
    effective_to: date | None = None
    batch: Decimal = of(ONE, word="batch size", bound="> 0", cause="usage")
    reference: str = of("", most=500)  # what this alternate is for
    lines: list[Line] = field(default_factory=list)
    operations: list[Operation] = field(default_factory=list)


@dataclass(slots=True)
class Definition:
    """Everything needed to tally: the content of a bundle."""

    currency: str = "EUR"
    work_centers: list[WorkCenter] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    sheets: list[Sheet] = field(default_factory=list)
    options: dict[str, str] = field(default_factory=dict)  # code → name
    not_together: dict[str, list[str]] = field(default_factory=dict)  # code → codes it excludes, both ways
    part_classes: list[PartClass] = field(default_factory=list)
    standard_operations: list[StandardOperation] = field(default_factory=list)
    # Of parts by number; a part that stands in neither keeps what it has.
    maker_numbers: dict[str, list[MakerNumber]] = field(default_factory=dict)  # the first choice first
    on_hand: dict[str, Decimal] = field(default_factory=dict)  # counted, in the part's stock unit
