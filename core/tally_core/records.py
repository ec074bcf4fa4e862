"""What a single record may hold. The same checks stand before the bundle, the API and the intake."""

import re
import unicodedata
from collections.abc import Iterator
from datetime import date
from decimal import Decimal

from .calendars import parse_shifts
from .definition import Line, Operation, Part, Sheet, StandardOperation, WorkCenter
from .errors import Problem, TallyError, UnitError
from .rates import RATES
from .schedule import routing_order
from .units import code, dimension

__all__ = [
    "check_line", "check_number", "check_operation", "check_part", "check_sheet", "check_standard_operation",
    "check_work_center",
]  # fmt: skip

_LARGEST = Decimal("1e12")


def check_number(number: str, word: str = "part number") -> str | None:
    """What is wrong with a part number or a code, or None.

    Letters come from the Latin alphabet and digits are 0 to 9: a letter of another alphabet that looks the same
    would make two numbers that no reader can tell apart.

    >>> check_number("HL-155")
    >>> check_number("HL 155")
    'a part number holds no blanks; this one has one after “HL”'
    >>> check_number("H\u041b-155")
    'the character “Л” (cyrillic capital letter el) is easily confused or cannot be typed by everyone; use A–Z, 0–9'
    """
    if not number:
        return f"a {word} is needed"
    if len(number) > 64:
        return f"a {word} has at most 64 characters; this one has {len(number)}"
    for index, char in enumerate(number):
        if char.isspace() or unicodedata.category(char) in ("Zs", "Cf", "Cc"):
            return f"a {word} holds no blanks; this one has one " + (
                f"after “{number[:index]}”" if index else "at its start"
            )
        if char.isascii():
            continue
        name = unicodedata.name(char, "unknown")
        if not (name.startswith("LATIN") and char.isalpha() and unicodedata.normalize("NFKC", char) == char):
            return (
                f"the character “{char}” ({name.lower()}) is easily confused or cannot be typed by everyone; "
                "use A–Z, 0–9"
            )
    return None


def _bounds(record, fields: dict[str, str]) -> Iterator[Problem]:
    """Check numbers: ``fields`` maps a field to ``>= 0`` or ``> 0``."""
    for name, rule in fields.items():
        value = getattr(record, name)
        if value is None:
            continue
        word = name.replace("_", " ")
        if isinstance(value, Decimal) and not value.is_finite():
            yield Problem(name, f"{word} is not a number")
        elif rule == "> 0" and value <= 0:
            yield Problem(name, f"{word} must be more than 0, not {value}")
        elif value < 0:
            yield Problem(name, f"{word} cannot be negative ({value})")
        elif value >= _LARGEST:
            yield Problem(name, f"{word} is too large ({value})")
        elif isinstance(value, Decimal) and int(value.normalize().as_tuple().exponent) < -9:
            yield Problem(name, f"{word} has more than nine decimals ({value})")


def _texts(record, fields: dict[str, int]) -> Iterator[Problem]:
    """Check texts: ``fields`` maps a field to the characters it may have."""
    for name, most in fields.items():
        if len(getattr(record, name)) > most:
            yield Problem(
                name, f"{name.replace('_', ' ')} has at most {most:,} characters, not {len(getattr(record, name)):,}"
            )


def _choice(record, name: str, allowed: tuple[str, ...]) -> Iterator[Problem]:
    value = getattr(record, name)
    if value not in allowed:
        yield Problem(name, f"{name.replace('_', ' ')} is {value!r}; use one of {', '.join(allowed)}")


def _unit(symbol: str, name: str = "unit") -> Iterator[Problem]:
    try:
        code(symbol)
    except UnitError as error:
        yield Problem(name, str(error))


def _days(first: date | None, last: date | None) -> Iterator[Problem]:
    if first is not None and last is not None and last <= first:
        yield Problem(
            "effective_to", f"the last day ({last}) must come after the first ({first}): it is itself not in force"
        )


def _buying_unit(part: Part) -> Iterator[Problem]:
    """A buying unit that is a unit must measure what the stock unit does; one of the part's own says how much it holds."""
    name = part.buying_unit or ""
    if part.stock_per_buying_unit is not None:
        if not name.strip() or len(name) > 20:
            yield Problem("buying_unit", "a buying unit has 1 to 20 characters")
        return
    unknown = list(_unit(name, "buying_unit"))
    if unknown:
        yield Problem(
            "stock_per_buying_unit", f"{name[:20]} is no unit of measure; say how many {part.unit} one of it holds"
        )
    elif not list(_unit(part.unit)) and dimension(name) != dimension(part.unit):
        yield Problem(
            "buying_unit",
            f"{name} is {dimension(name)}, and the part is stocked in {part.unit}, {dimension(part.unit)}; "
            f"say how many {part.unit} one {name} holds",
        )


def check_part(part: Part) -> Iterator[Problem]:
    """Problems of a part's own fields."""
    wrong = check_number(part.number)
    if wrong:
        yield Problem("number", wrong)
    yield from _choice(part, "kind", ("made", "bought", "phantom", "charge"))
    yield from _choice(part, "lifecycle", ("draft", "active", "last_buy", "obsolete"))
    yield from _unit(part.unit)
    if part.default_alternate is not None and not 0 < len(part.default_alternate.strip()) <= 20:
        yield Problem("default_alternate", "an alternate is 1 to 20 characters")
    yield from _bounds(
        part,
        {"unit_cost": ">= 0", "given_cost": ">= 0", "overhead_percent": ">= 0", "costing_lot": "> 0",
         "lead_time_days": ">= 0", "mass_kg": ">= 0", "stock_per_buying_unit": "> 0", "reorder_level": ">= 0",
         "order_minimum": ">= 0", "order_multiple": "> 0", "selling_price": ">= 0"},
    )  # fmt: skip
    if part.markup_percent is not None:
        if part.given_cost is not None:
            yield Problem("markup_percent", "a cost given by hand has no markup; give one or the other")
        if part.kind == "phantom":
            yield Problem("markup_percent", "a phantom is not costed on its own and takes no markup")
        if not -100 < part.markup_percent < 1_000_000:
            yield Problem("markup_percent", f"a markup is above -100 %, not {part.markup_percent:f}")
    yield from _texts(
        part,
        {"description": 2000, "second_description": 4000, "material": 200, "given_reason": 500, "supplier": 200,
         "supplier_number": 200, "size_mm": 60},
    )  # fmt: skip
    if part.buying_unit is not None:
        yield from _buying_unit(part)
    if part.size_mm and not re.fullmatch(r"\d+(\.\d+)?( x \d+(\.\d+)?){0,2}", part.size_mm):
        yield Problem("size_mm", f"write the size in mm like 120 x 80 x 35, not {part.size_mm[:40]}")
    if part.supplier_link and not re.fullmatch(r"https?://[^\s<>\"]{3,500}", part.supplier_link):
        yield Problem("supplier_link", "a link starts with http:// or https:// and holds no blanks")
    if part.unmodelled and part.kind != "bought":
        yield Problem("unmodelled", f"what nobody models is bought; this part is {part.kind}")
    if len(part.part_class) > 60:
        yield Problem("part_class", "the name of a class has at most 60 characters")


def check_work_center(center: WorkCenter) -> Iterator[Problem]:
    """Problems of a work center's own fields."""
    wrong = check_number(center.code, "code")
    if wrong:
        yield Problem("code", wrong)
    yield from _bounds(
        center,
        {"labor_rate": ">= 0", "setup_labor_rate": ">= 0", "machine_rate": ">= 0", "overhead_per_hour": ">= 0",
         "overhead_percent_of_labor": ">= 0", "efficiency_percent": "> 0", "stations": "> 0", "crew": ">= 0"},
    )  # fmt: skip
    for index, change in enumerate(center.rates):
        for problem in _bounds(change, dict.fromkeys(RATES, ">= 0")):
            yield Problem(f"rates[{index}].{problem.place}", problem.message)
        if change.first_day in (other.first_day for other in center.rates[:index]):
            yield Problem(f"rates[{index}].first_day", f"rates from {change.first_day} on stand there twice")
    yield from _texts(center, {"name": 200, "shifts": 500})
    if len(center.group) > 60:
        yield Problem("group", "the name of a group has at most 60 characters")
    if len(center.stops) > 500:
        yield Problem("stops", "a work center has at most 500 planned stops; let go of those that are over")
    for index, stop in enumerate(center.stops):
        if stop.end <= stop.start:
            yield Problem(f"stops[{index}].end", f"a stop ends after it begins ({stop.start:%Y-%m-%d %H:%M})")
    if center.shifts:
        try:
            parse_shifts(center.shifts)
        except TallyError as error:
            yield Problem("shifts", str(error))


def check_operation(operation: Operation) -> Iterator[Problem]:
    """Problems of an operation's own fields."""
    yield from _bounds(
        operation,
        {"sequence": "> 0", "setup_minutes": ">= 0", "run_minutes": ">= 0", "cycle_quantity": "> 0", "crew": ">= 0",
         "setup_crew": ">= 0", "piece_rate": ">= 0", "yield_percent": "> 0", "queue_minutes": ">= 0",
         "wait_minutes": ">= 0", "move_minutes": ">= 0", "stations": "> 0", "transfer_quantity": "> 0",
         "run_from_orders": "> 0"},
    )  # fmt: skip
    if operation.yield_percent > 100:
        yield Problem("yield_percent", f"yield percent is at most 100, not {operation.yield_percent}")
    yield from _choice(operation, "run_basis", ("per_unit", "per_cycle", "per_lot"))
    if operation.run_basis == "per_cycle" and operation.cycle_quantity is None:
        yield Problem("cycle_quantity", "say how many one cycle holds, since this operation runs per cycle")
    if (operation.work_center is None) == (operation.subcontract is None):
        yield Problem("work_center", "give either a work center or a subcontract, one of the two")
    yield from _texts(operation, {"name": 200})
    if operation.subcontract is not None:
        for problem in _texts(operation.subcontract, {"supplier": 200}):
            yield Problem(f"subcontract.{problem.place}", problem.message)
    if len(operation.instructions) > 20_000:
        yield Problem("instructions", "instructions have at most 20,000 characters; put more into a file beside them")
    if operation.transfer_quantity is not None and operation.subcontract is not None:
        yield Problem(
            "transfer_quantity", "what is done outside goes and comes as a whole lot, without a transfer quantity"
        )
    if operation.subcontract is not None:
        for problem in _bounds(
            operation.subcontract, {"unit_price": ">= 0", "minimum_charge": ">= 0", "lead_days": ">= 0"}
        ):
            yield Problem(f"subcontract.{problem.place}", problem.message)


def check_standard_operation(standard: StandardOperation) -> Iterator[Problem]:
    """Problems of an entry of the library."""
    wrong = check_number(standard.code, "code")
    if wrong:
        yield Problem("code", wrong)
    for problem in check_operation(standard.operation):
        yield Problem(f"operation.{problem.place}", problem.message)


def check_line(line: Line, stock_unit: str | None, parent_kind: str = "made") -> Iterator[Problem]:
    """Problems of a line's own fields.

    Args:
        stock_unit: the unit of the line's part; None for a text line or when the part is not known.
        parent_kind: the kind of the part whose sheet it stands on.
    """
    for name in line.kept_off:
        if name not in ("lines", "parts", "top"):
            yield Problem("kept_off", f"there is no list {name[:40]!r}; the lists are lines, parts and top")
    yield from _choice(line, "kind", ("component", "byproduct", "text"))
    yield from _choice(line, "quantity_basis", ("per_unit", "per_lot"))
    yield from _choice(line, "option_action", ("add", "remove"))
    if line.kind == "text":
        if line.part is not None:
            yield Problem("part", "a text line names no part")
    elif line.part is None:
        yield Problem("part", "name the part")
    yield from _bounds(
        line,
        {"item": ">= 0", "quantity": ">= 0", "scrap_percent": ">= 0", "yield_percent": "> 0", "fixed_loss": ">= 0"},
    )
    if line.yield_percent is not None and line.yield_percent > 100:
        yield Problem("yield_percent", f"yield percent is at most 100, not {line.yield_percent}")
    if line.scrap_percent and line.yield_percent is not None:
        yield Problem("yield_percent", "give either a scrap or a yield: each says the same loss in its own way")
    if line.kind == "byproduct" and (line.scrap_percent or line.fixed_loss or line.yield_percent is not None):
        yield Problem("scrap_percent", "a by-product takes no scrap, yield or fixed loss")
    if line.unit is not None:
        unknown = list(_unit(line.unit))
        yield from unknown
        if not unknown and stock_unit is not None and dimension(line.unit) != dimension(stock_unit):
            yield Problem(
                "unit",
                f"{line.unit} is {dimension(line.unit)}, and {line.part} is stocked in {stock_unit}, "
                f"{dimension(stock_unit)}",
            )
    yield from _texts(line, {"text": 4000})
    if len(line.reference_designators) > 5000 or any(len(place) > 60 for place in line.reference_designators):
        yield Problem("reference_designators", "a line names at most 5,000 places of at most 60 characters each")
    if line.option is not None:
        wrong = check_number(line.option, "option code")
        if wrong:
            yield Problem("option", wrong)
    if parent_kind == "phantom" and line.quantity_basis == "per_lot":
        yield Problem("quantity_basis", "a phantom has no lots, so its lines take no quantity per lot")
    if parent_kind == "phantom" and line.fixed_loss:
        yield Problem("fixed_loss", "a phantom has no lots, so its lines have no fixed loss")
    yield from _days(line.effective_from, line.effective_to)


def check_sheet(sheet: Sheet, part_kind: str) -> Iterator[Problem]:
    """Problems of a sheet's head and of how its operations and lines hang together."""
    for name in ("alternate", "revision"):
        value = getattr(sheet, name)
        if not value or value != value.strip() or len(value) > 20:
            yield Problem(name, f"{name} is 1 to 20 characters without blanks around them")
    yield from _choice(sheet, "status", ("draft", "released", "retired"))
    yield from _texts(sheet, {"reference": 500})
    yield from _bounds(sheet, {"batch": "> 0"})
    yield from _days(sheet.effective_from, sheet.effective_to)
    if part_kind not in ("made", "phantom"):
        yield Problem("part", f"{sheet.part} is a {part_kind} part; only a made part or a phantom has a build sheet")
    if part_kind == "phantom" and sheet.operations:
        yield Problem("operations", "a phantom has no operations")
    sequences: set[int] = set()
    for index, operation in enumerate(sheet.operations):
        if operation.sequence in sequences:
            yield Problem(f"operations[{index}].sequence", f"operation {operation.sequence} stands there twice")
        sequences.add(operation.sequence)
    for index, operation in enumerate(sheet.operations):
        for other in operation.after:
            if other not in sequences or other == operation.sequence:
                yield Problem(f"operations[{index}].after", f"there is no other operation {other} on this sheet")
    # An operation that names none follows the one before it in the list (rule T2).
    listed = sorted(sheet.operations, key=lambda o: o.sequence)
    before = {o.sequence: list(o.after) or ([listed[i - 1].sequence] if i else []) for i, o in enumerate(listed)}
    try:
        routing_order({sequence: [x for x in others if x in before] for sequence, others in before.items()})
    except TallyError as error:
        at = next((i for i, o in enumerate(sheet.operations) if o.after), 0)
        yield Problem(f"operations[{at}].after", str(error))
    for index, line in enumerate(sheet.lines):
        if line.issue_at is not None and line.issue_at not in sequences:
            yield Problem(f"lines[{index}].issue_at", f"there is no operation {line.issue_at} on this sheet")
