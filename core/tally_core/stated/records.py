"""What a single record may hold. The same checks stand before the bundle, the API and the intake."""

import re
import unicodedata
from collections.abc import Iterator, Sequence
from datetime import date
from decimal import Decimal

from ..basics.errors import Problem, TallyError, UnitError
from ..basics.facts import facts_of
from ..basics.kinds import LINE_KIND, LISTS, PART_KIND
from ..basics.units import code, dimension, is_count
from ..calendar.calendars import parse_shifts
from ..calendar.paces import parse_paces
from ..calendar.schedule import routing_order
from .cut_pieces import read_cut
from .definition import Line, MakerNumber, Operation, Part, Resource, Sheet, StandardOperation, WorkCenter

__all__ = [
    "check_counted",
    "check_line",
    "check_maker_numbers",
    "check_number",
    "check_operation",
    "check_part",
    "check_resource",
    "check_sheet",
    "check_standard_operation",
    "check_work_center",
]

_LARGEST = Decimal("1e12")
MOST_MAKER_NUMBERS = 50
_MOST_RESOURCES = 20


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
            return f"a {word} holds no blanks; this one has one " + (f"after “{number[:index]}”" if index else "at its start")
        if char.isascii():
            continue
        name = unicodedata.name(char, "unknown")
        # Numbers are one in either size: a letter that is two as a capital (ß) has no other size.
        one = len(char.upper()) == 1
        if not (name.startswith("LATIN") and char.isalpha() and one and unicodedata.normalize("NFKC", char) == char):
            return f"the character “{char}” ({name.lower()}) is easily confused or cannot be typed by everyone; use A–Z, 0–9"
    return None


def _fields(record) -> Iterator[Problem]:
    """Check the fields of a record by what is declared of them."""
    for name, facts in facts_of(type(record)).items():
        value = getattr(record, name)
        word = name.replace("_", " ")
        if facts.among and isinstance(value, str) and value not in facts.among:
            yield Problem(name, f"{word} is {value!r}; use one of {', '.join(facts.among)}")
        if facts.bound and value is not None:
            wrong = _bound(word, value, facts.bound)
            if wrong:
                yield Problem(name, wrong)
        if facts.most and len(value) > facts.most:
            yield Problem(name, f"{word} has at most {facts.most:,} characters, not {len(value):,}")


def _bound(word: str, value: Decimal | int, bound: str) -> str:
    """What is wrong with a number, or nothing."""
    if isinstance(value, Decimal) and not value.is_finite():
        return f"{word} is not a number"
    if bound == "> 0" and value <= 0:
        return f"{word} must be more than 0, not {value}"
    if value < 0:
        return f"{word} cannot be negative ({value})"
    if value >= _LARGEST:
        return f"{word} is too large ({value})"
    if isinstance(value, Decimal) and int(value.normalize().as_tuple().exponent) < -9:
        return f"{word} has more than nine decimals ({value})"
    return ""


def _unit(symbol: str, name: str = "unit") -> Iterator[Problem]:
    try:
        code(symbol)
    except UnitError as error:
        yield Problem(name, str(error))


def _days(first: date | None, last: date | None) -> Iterator[Problem]:
    if first is not None and last is not None and last <= first:
        yield Problem("effective_to", f"the last day ({last}) must come after the first ({first}): it is itself not in force")


def _buying_unit(part: Part) -> Iterator[Problem]:
    """A buying unit that is a unit must measure what the stock unit does; one of the part's own says how much it holds."""
    name = part.buying_unit or ""
    if part.stock_per_buying_unit is not None:
        if not name.strip() or len(name) > 20:
            yield Problem("buying_unit", "a buying unit has 1 to 20 characters")
        return
    unknown = list(_unit(name, "buying_unit"))
    if unknown:
        yield Problem("stock_per_buying_unit", f"{name[:20]} is no unit of measure; say how many {part.unit} one of it holds")
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
    yield from _fields(part)
    yield from _unit(part.unit)
    if part.default_alternate is not None and not 0 < len(part.default_alternate.strip()) <= 20:
        yield Problem("default_alternate", "an alternate is 1 to 20 characters")
    if part.markup_percent is not None:
        if part.given_cost is not None:
            yield Problem("markup_percent", "a cost given by hand has no markup; give one or the other")
        if part.kind in PART_KIND and not PART_KIND[part.kind].itself:
            yield Problem("markup_percent", "a phantom is not costed on its own and takes no markup")
        if not -100 < part.markup_percent < 1_000_000:
            yield Problem("markup_percent", f"a markup is above -100 %, not {part.markup_percent:f}")
    if part.buying_unit is not None:
        yield from _buying_unit(part)
    if part.size_mm and not re.fullmatch(r"\d+(\.\d+)?( x \d+(\.\d+)?){0,2}", part.size_mm):
        yield Problem("size_mm", f"write the size in mm like 120 x 80 x 35, not {part.size_mm[:40]}")
    if part.supplier_link and not re.fullmatch(r"https?://[^\s<>\"]{3,500}", part.supplier_link):
        yield Problem("supplier_link", "a link starts with http:// or https:// and holds no blanks")
    for index, change in enumerate(part.prices):
        for problem in _fields(change):
            yield Problem(f"prices[{index}].{problem.place}", problem.message)
        if change.first_day in (other.first_day for other in part.prices[:index]):
            yield Problem(f"prices[{index}].first_day", f"a price from {change.first_day} on stands there twice")
    if part.prices and part.kind in PART_KIND and not PART_KIND[part.kind].priced_as:
        yield Problem("prices", f"what is {part.kind} costs what it takes, and has no price")
    if len(part.prices) > 500:
        yield Problem("prices", "a part has at most 500 prices")
    if part.unmodelled and part.kind != "bought":
        yield Problem("unmodelled", f"what nobody models is bought; this part is {part.kind}")
    if len(part.part_class) > 60:
        yield Problem("part_class", "the name of a class has at most 60 characters")


def check_maker_numbers(numbers: Sequence[MakerNumber]) -> Iterator[Problem]:
    """Problems of the makers' numbers of one part, each placed at its row: ``[1].number``."""
    if len(numbers) > MOST_MAKER_NUMBERS:
        yield Problem("", f"a part has at most {MOST_MAKER_NUMBERS} manufacturers' numbers")
    seen: dict[tuple[str, str], int] = {}
    for index, entry in enumerate(numbers):
        for problem in _fields(entry):
            yield Problem(f"[{index}].{problem.place}", problem.message)
        for name in ("maker", "number", "package"):
            if not getattr(entry, name).isprintable():
                yield Problem(f"[{index}].{name}", f"the {name} holds characters that cannot be printed")
        if not entry.number.strip():
            yield Problem(f"[{index}].number", "the number is needed")
        first = seen.setdefault((entry.maker.strip().upper(), entry.number.strip().upper()), index)
        if first != index:
            yield Problem(f"[{index}].number", f"stands there already, as choice {first + 1}")


def check_counted(part: Part, counted: Decimal) -> Iterator[Problem]:
    """Problems of what was counted of a part, in its stock unit."""
    wrong = _bound("on hand", counted, ">= 0")
    if wrong:
        yield Problem("on_hand", wrong)
    elif part.kind in PART_KIND and not PART_KIND[part.kind].stocked:
        yield Problem("on_hand", f"{part.number} is a {part.kind} and is never stocked")
    elif list(_unit(part.unit)):
        return
    elif (is_count(part.unit) if part.whole_only is None else part.whole_only) and counted != counted.to_integral_value():
        yield Problem("on_hand", f"{part.number} is counted in whole units, not {counted:f}")


def check_work_center(center: WorkCenter) -> Iterator[Problem]:
    """Problems of a work center's own fields."""
    wrong = check_number(center.code, "code")
    if wrong:
        yield Problem("code", wrong)
    yield from _fields(center)
    for index, change in enumerate(center.rates):
        for problem in _fields(change):
            yield Problem(f"rates[{index}].{problem.place}", problem.message)
        if change.first_day in (other.first_day for other in center.rates[:index]):
            yield Problem(f"rates[{index}].first_day", f"rates from {change.first_day} on stand there twice")
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
    if center.stations > 0:
        try:
            parse_paces(center.paces, center.stations)
        except TallyError as error:
            yield Problem("paces", str(error))


def check_operation(operation: Operation) -> Iterator[Problem]:
    """Problems of an operation's own fields."""
    yield from _fields(operation)
    if operation.yield_percent > 100:
        yield Problem("yield_percent", f"yield percent is at most 100, not {operation.yield_percent}")
    if operation.run_basis == "per_cycle" and operation.cycle_quantity is None:
        yield Problem("cycle_quantity", "say how many one cycle holds, since this operation runs per cycle")
    if (operation.work_center is None) == (operation.subcontract is None):
        yield Problem("work_center", "give either a work center or a subcontract, one of the two")
    if operation.any_of_group and operation.work_center is None:
        yield Problem("any_of_group", "name a work center of the group")
    if len(operation.instructions) > 20_000:
        yield Problem("instructions", "instructions have at most 20,000 characters; put more into a file beside them")
    if operation.transfer_quantity is not None and operation.subcontract is not None:
        yield Problem("transfer_quantity", "what is done outside goes and comes as a whole lot, without a transfer quantity")
    if operation.subcontract is not None:
        for problem in _fields(operation.subcontract):
            yield Problem(f"subcontract.{problem.place}", problem.message)
    if len(operation.resources) > _MOST_RESOURCES:
        yield Problem("resources", f"at most {_MOST_RESOURCES} work beside an operation")
    for index, resource in enumerate(operation.resources):
        for problem in check_resource(resource, operation):
            yield Problem(f"resources[{index}].{problem.place}", problem.message)


def check_resource(resource: Resource, operation: Operation) -> Iterator[Problem]:
    """Problems of what works beside an operation."""
    yield from _fields(resource)
    if operation.subcontract is not None:
        yield Problem("work_center", "what is done outside has nothing of ours beside it")
    if not resource.work_center:
        yield Problem("work_center", "name the work center that works beside it")
    if resource.run_basis == "per_cycle" and operation.cycle_quantity is None:
        yield Problem("run_basis", f"operation {operation.sequence} does not say how many one cycle holds")


def check_standard_operation(standard: StandardOperation) -> Iterator[Problem]:
    """Problems of an entry of the library."""
    wrong = check_number(standard.code, "code")
    if wrong:
        yield Problem("code", wrong)
    for problem in check_operation(standard.operation):
        yield Problem(f"operation.{problem.place}", problem.message)
    if standard.operation.resources:
        yield Problem("operation.resources", "what works beside an operation is stated on a sheet, not in the library")


def check_line(line: Line, stock_unit: str | None, parent_kind: str = "made") -> Iterator[Problem]:
    """Problems of a line's own fields.

    Args:
        stock_unit: the unit of the line's part; None for a text line or when the part is not known.
        parent_kind: the kind of the part whose sheet it stands on.
    """
    for name in line.kept_off:
        if name not in LISTS:
            yield Problem("kept_off", f"there is no list {name[:40]!r}; the lists are {', '.join(LISTS[:-1])} and {LISTS[-1]}")
    for problem in _fields(line):
        if problem.place == "quantity" and line.quantity is not None and line.quantity < 0:
            yield Problem("quantity", f"{problem.message}; what comes back is a by-product: make it a line of that kind")
        else:
            yield problem
    kind = LINE_KIND.get(line.kind, LINE_KIND["component"])
    if not kind.names_part:
        if line.part is not None:
            yield Problem("part", f"a {kind.word} line names no part")
    elif line.part is None:
        yield Problem("part", "name the part")
    if line.yield_percent is not None and line.yield_percent > 100:
        yield Problem("yield_percent", f"yield percent is at most 100, not {line.yield_percent}")
    if line.scrap_percent and line.yield_percent is not None:
        yield Problem("yield_percent", "give either a scrap or a yield: each says the same loss in its own way")
    if kind.gives_back and (line.scrap_percent or line.fixed_loss or line.yield_percent is not None):
        yield Problem("scrap_percent", f"a {kind.word} takes no scrap, yield or fixed loss")
    if line.unit is not None:
        unknown = list(_unit(line.unit))
        yield from unknown
        if not unknown and stock_unit is not None and dimension(line.unit) != dimension(stock_unit):
            yield Problem(
                "unit", f"{line.unit} is {dimension(line.unit)}, and {line.part} is stocked in {stock_unit}, {dimension(stock_unit)}"
            )
    if len(line.reference_designators) > 5000 or any(len(place) > 60 for place in line.reference_designators):
        yield Problem("reference_designators", "a line names at most 5,000 places of at most 60 characters each")
    if line.cut:
        try:
            read_cut(line.cut)
        except TallyError as error:
            yield Problem("cut", str(error))
        if line.kind != "component":
            yield Problem("cut", "what is cut is a component")
    if line.option is not None:
        wrong = check_number(line.option, "option code")
        if wrong:
            yield Problem("option", wrong)
    if parent_kind in PART_KIND and not PART_KIND[parent_kind].itself:
        if line.quantity_basis == "per_lot":
            yield Problem("quantity_basis", f"a {parent_kind} has no lots, so its lines take no quantity per lot")
        if line.fixed_loss:
            yield Problem("fixed_loss", f"a {parent_kind} has no lots, so its lines have no fixed loss")
    yield from _days(line.effective_from, line.effective_to)


def check_sheet(sheet: Sheet, part_kind: str) -> Iterator[Problem]:
    """Problems of a sheet's head and of how its operations and lines hang together."""
    for name in ("alternate", "revision"):
        value = getattr(sheet, name)
        if not value or value != value.strip() or len(value) > 20:
            yield Problem(name, f"{name} is 1 to 20 characters without blanks around them")
    yield from _fields(sheet)
    yield from _days(sheet.effective_from, sheet.effective_to)
    if part_kind not in PART_KIND or not PART_KIND[part_kind].takes_sheet:
        yield Problem("part", f"{sheet.part} is a {part_kind} part; only a made part or a phantom has a build sheet")
    elif not PART_KIND[part_kind].itself and sheet.operations:
        yield Problem("operations", f"a {part_kind} has no operations")
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
