"""A definition as plain records: parts, work centers, build sheets with their lines and operations.

Quantities, costs and percentages are Decimals; minutes are minutes; a day is a ``datetime.date``. A record holds
what the user stated: ``None`` means that nothing was stated.
"""

from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal

__all__ = [
    "ClassField",
    "Definition",
    "Line",
    "Operation",
    "Part",
    "PartClass",
    "RateChange",
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
    labor_rate: Decimal | None = None
    setup_labor_rate: Decimal | None = None
    machine_rate: Decimal | None = None
    overhead_per_hour: Decimal | None = None
    overhead_percent_of_labor: Decimal | None = None


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
    name: str = ""
    group: str = ""  # the department or line it belongs to
    labor_rate: Decimal = ZERO
    setup_labor_rate: Decimal | None = None  # the labor rate when not stated
    machine_rate: Decimal = ZERO
    overhead_per_hour: Decimal = ZERO
    overhead_percent_of_labor: Decimal = ZERO
    efficiency_percent: Decimal = HUNDRED
    stations: int = 1
    crew: Decimal = ONE  # of a new operation here
    shifts: str = ""  # like "Mo-Fr 07:00-15:30"; a plain week of Mo-Fr 08:00-16:00 when not stated
    rates: list[RateChange] = field(default_factory=list)
    stops: list[Stop] = field(default_factory=list)


@dataclass(slots=True)
class ClassField:
    """One field of a class. Its name is letters, digits and underscores, so that expressions can use it."""

    name: str
    kind: str = "text"  # text | number | money | date | choice | computed
    unit: str = ""  # of a number or a computed field; shown beside it
    choices: list[str] = field(default_factory=list)
    expression: str = ""  # of a computed field


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
    description: str = ""
    kind: str = "bought"  # made | bought | phantom | charge
    unit: str = "ea"
    unit_cost: Decimal | None = None
    given_cost: Decimal | None = None  # by hand: instead of the roll-up
    markup_percent: Decimal | None = None  # by hand: over the roll-up, where no cost is given
    given_reason: str = ""  # why either was given
    selling_price: Decimal | None = None
    overhead_percent: Decimal = ZERO
    costing_lot: Decimal | None = None
    whole_only: bool | None = None
    lead_time_days: int = 0
    lifecycle: str = "active"  # draft | active | last_buy | obsolete
    default_alternate: str | None = None  # the alternate that counts; the first one when not stated
    second_description: str = ""
    part_class: str = ""
    material: str = ""
    mass_kg: Decimal | None = None
    size_mm: str = ""  # overall size: length x width x height
    buying_unit: str | None = None  # the stock unit when not stated
    stock_per_buying_unit: Decimal | None = None  # a conversion of this part's own: 1 roll = 50 m
    reorder_level: Decimal | None = None  # in stock units, like the two that follow
    order_minimum: Decimal | None = None
    order_multiple: Decimal | None = None
    sold: bool = False  # a made part that is sold on its own, too
    supplier: str = ""  # who it is bought from, and under which number
    supplier_number: str = ""
    supplier_link: str = ""
    unmodelled: bool = False  # glue, grease, paint, labels: on no drawing, dropped into sheets in the amount used there
    own_values: dict[str, str] = field(default_factory=dict)  # of the fields of its class, by name


@dataclass(slots=True)
class Subcontract:
    """Work done outside: price per started unit, least charge per lot, days away."""

    supplier: str = ""
    unit_price: Decimal = ZERO
    minimum_charge: Decimal = ZERO
    lead_days: int = 0


@dataclass(slots=True)
class Operation:
    """One step of a routing, at a work center or outside, never both."""

    sequence: int = 10
    name: str = ""
    work_center: str | None = None
    setup_minutes: Decimal = ZERO
    run_minutes: Decimal = ZERO
    run_basis: str = "per_unit"  # per_unit | per_cycle | per_lot
    cycle_quantity: Decimal | None = None
    crew: Decimal = ONE
    setup_crew: Decimal = ONE
    piece_rate: Decimal | None = None
    yield_percent: Decimal = HUNDRED
    queue_minutes: Decimal = ZERO
    wait_minutes: Decimal = ZERO
    move_minutes: Decimal = ZERO
    after: list[int] = field(default_factory=list)  # the sequences it follows; the one before it when empty
    stations: int = 1  # how many stations of its work center share the lot
    transfer_quantity: Decimal | None = (
        None  # what follows may begin when so many are done; the whole lot when not stated
    )
    subcontract: Subcontract | None = None
    instructions: str = ""  # for the shop, Markdown
    standard: str | None = None  # the standard operation it follows, and the version of it that it was taken from
    standard_version: int | None = None
    run_from_orders: int | None = (
        None  # the run time is the mean of so many finished orders; set by hand when not stated
    )


@dataclass(slots=True)
class StandardOperation:
    """An operation of the library; sequence and order of work are those of the routing it is put on."""

    code: str
    version: int = 1
    operation: Operation = field(default_factory=Operation)


@dataclass(slots=True)
class Line:
    """One line of a build sheet. A component without a quantity is as-needed (rule U5)."""

    item: int | None = None
    item_locked: bool = False  # renumbering passes it by
    kind: str = "component"  # component | byproduct | text
    part: str | None = None
    quantity: Decimal | None = None
    unit: str | None = None  # the part's stock unit when not stated
    quantity_basis: str = "per_unit"  # per_unit | per_lot
    scrap_percent: Decimal | None = None
    yield_percent: Decimal | None = None
    fixed_loss: Decimal = ZERO
    issue_at: int | None = None
    option: str | None = None
    option_action: str = "add"  # add | remove
    customer_supplied: bool = False
    not_fitted: bool = False
    reference_designators: list[str] = field(default_factory=list)
    effective_from: date | None = None
    effective_to: date | None = None
    text: str = ""
    kept_off: list[str] = field(
        default_factory=list
    )  # lists it is not shown on: lines | parts | top; it counts all the same


@dataclass(slots=True)
class Sheet:
    """One version of how a made part is built."""

    part: str
    alternate: str = "A"
    revision: str = "A"
    status: str = "draft"  # draft | released | retired
    effective_from: date | None = None
    effective_to: date | None = None
    batch: Decimal = ONE
    reference: str = ""  # what this alternate is for
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
