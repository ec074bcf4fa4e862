"""What can be wrong in what a sheet states: work, prices, quantities, designators."""

from collections.abc import Iterator

import numpy as np

from ..basics.kinds import COMPONENT, HAS_PRICE, MADE, PHANTOM
from ..basics.units import FACTORS, SYMBOLS, is_count
from ..structure.tables import NO_END, NO_START
from .finding import LOOK, STOPS, Finding, at_line, at_sheet, counting_now, name_of, rule
from .survey import Survey


@rule
def phantom_work(s: Survey, day: int) -> Iterator[Finding]:
    """A phantom with operations, quantities per lot or fixed losses (rule U8)."""
    phantom = s.kind[s.part] == PHANTOM
    for sheet in np.flatnonzero(phantom & (s.operations > 0)).tolist():
        yield at_sheet(
            s,
            "phantom-work",
            STOPS,
            sheet,
            f"{s.numbers[s.part[sheet]]} is a phantom, and its sheet has operations",
            "take the operations away, or make it a made part",
        )
    for line in np.flatnonzero(phantom[s.sheet] & s.counts & (s.per_lot | (s.fixed_loss != 0))).tolist():
        yield at_line(
            s,
            "phantom-work",
            STOPS,
            line,
            f"{name_of(s, line)} is counted per lot, and a phantom has no lots",
            "count it per unit, without a fixed loss",
        )


@rule
def wrong_kind(s: Survey, day: int) -> Iterator[Finding]:
    """A sheet of a part that is bought or a charge."""
    for sheet in np.flatnonzero(HAS_PRICE[s.kind[s.part]]).tolist():
        yield at_sheet(
            s,
            "wrong-kind",
            STOPS,
            sheet,
            f"{s.numbers[s.part[sheet]]} is not made, and has a build sheet",
            "make it a made part, or retire the sheet",
        )


@rule
def no_cost(s: Survey, day: int) -> Iterator[Finding]:
    """A bought part or charge without a cost, where it would cost something."""
    lacking = HAS_PRICE[s.kind] & ~s.costed
    at = np.flatnonzero(s.counts & counting_now(s, day) & ~s.customer_supplied & ~s.removes)
    for line in at[lacking[s.child[at]]].tolist():
        yield at_line(s, "no-cost", LOOK, line, f"{name_of(s, line)} has no unit cost", "state one on the part")


@rule
def no_routing(s: Survey, day: int) -> Iterator[Finding]:
    """A made part's sheet without operations: it costs no work."""
    for sheet in np.flatnonzero((s.kind[s.part] == MADE) & (s.operations == 0)).tolist():
        yield at_sheet(s, "no-routing", LOOK, sheet, "the sheet has no operations, so it costs no work", "add the operations that make it")


@rule
def no_lines(s: Survey, day: int) -> Iterator[Finding]:
    """A sheet that takes nothing."""
    filled = np.bincount(s.sheet[s.counts], minlength=len(s.part)) > 0
    for sheet in np.flatnonzero(~filled).tolist():
        yield at_sheet(s, "no-lines", LOOK, sheet, "the sheet takes no component", "add its lines")


@rule
def stations(s: Survey, day: int) -> Iterator[Finding]:
    """An operation that asks for more stations than its work center has: it is planned on as many as are there (T1)."""
    for sheet, found in s.crowded.items():
        asked = ", ".join(f"operation {number} on {wanted} of {there} at {center}" for number, center, wanted, there in found)
        yield at_sheet(
            s, "stations", LOOK, sheet, f"more stations are asked for than there are: {asked}", "ask for fewer, or add the stations"
        )


@rule
def run_time(s: Survey, day: int) -> Iterator[Finding]:
    """An operation whose run time was computed from fields of the part, which say something else by now."""
    for sheet, found in s.computed.items():
        words = ", ".join(f"operation {number} states {stated} min, and its expression {now}" for number, stated, now in found)
        yield at_sheet(
            s, "run-time", LOOK, sheet, f"run times are no longer what is computed: {words}", "compute them again, or set them by hand"
        )


@rule
def group_of_none(s: Survey, day: int) -> Iterator[Finding]:
    """An operation that may be done at any work center of a group, at one that is in none: it is planned there (C3)."""
    for sheet, found in s.groupless.items():
        named = ", ".join(f"operation {number} at {center}" for number, center in found)
        yield at_sheet(
            s,
            "group-of-none",
            LOOK,
            sheet,
            f"any work center of its group may do it, and it is in none: {named}",
            "give the work center its group, or keep the operation there",
        )


@rule
def designators(s: Survey, day: int) -> Iterator[Finding]:
    """Reference designators that do not agree with the quantity, or stand twice on a sheet (common practice)."""
    seen: dict[tuple[int, str], int] = {}
    for line in sorted(s.designators):
        names = s.designators[line]
        quantity = s.quantity[line]
        countable = not np.isnan(quantity) and is_count(SYMBOLS[s.line_unit[line]])
        if countable and quantity * FACTORS[s.line_unit[line], 0] != len(names):
            yield at_line(
                s,
                "designators",
                LOOK,
                line,
                f"quantity {quantity:g}, but {len(names)} reference designators",
                "correct the quantity or the designators",
            )
        for place, name in enumerate(names):
            first = seen.setdefault((int(s.sheet[line]), name), line)
            if first == line and names.index(name) == place:
                continue
            exchanged = s.option[line] != s.option[first] or s.removes[line] != s.removes[first]
            if not exchanged and not s.not_fitted[line] and not s.not_fitted[first]:
                yield at_line(s, "designators", LOOK, line, f"{name} stands at item {s.item[first]} too", "name each place once")


@rule
def item_twice(s: Survey, day: int) -> Iterator[Finding]:
    """Two lines of a sheet with the same item number, neither of an option nor bounded by days."""
    at = np.flatnonzero((s.item > 0) & (s.option < 0) & (s.line_first_day == NO_START) & (s.line_last_day == NO_END))
    key = s.sheet[at].astype(np.int64) << 32 | s.item[at]
    order = np.argsort(key, kind="stable")
    key, at = key[order], at[order]
    for line in at[1:][key[1:] == key[:-1]].tolist():
        yield at_line(s, "item-twice", LOOK, line, f"item {s.item[line]} stands twice on this sheet", "give one of them another number")


@rule
def no_quantity(s: Survey, day: int) -> Iterator[Finding]:
    """A line that takes a quantity of nought."""
    for line in np.flatnonzero(s.counts & (s.quantity == 0)).tolist():
        yield at_line(
            s,
            "no-quantity",
            LOOK,
            line,
            f"{name_of(s, line)} stands here with a quantity of 0",
            "state a quantity, clear it for as-needed, or take the line away",
        )


@rule
def model_count(s: Survey, day: int) -> Iterator[Finding]:
    """A sheet that counts and takes another number of a thing than the model of its part holds directly.

    What no model knows (glue, grease), what is measured, stated per lot, or hangs on an option is not held against it.
    """
    now = s.counts & counting_now(s, day) & ~s.per_lot & (s.line_kind == COMPONENT)
    for sheet in np.flatnonzero(np.isin(s.part, list(s.modelled))).tolist():
        held = s.modelled[int(s.part[sheet])]
        first, stop = np.searchsorted(s.sheet, (sheet, sheet + 1))
        lines = [line for line in range(int(first), int(stop)) if now[line]]
        # A revision that is over, or not yet there, is not what the model is of; one without lines is found for that.
        if not lines:
            continue
        taken: dict[int, list[int]] = {}
        for line in lines:
            taken.setdefault(int(s.child[line]), []).append(line)
        lacking = []
        for child, count in held.items():
            own = taken.get(child, [])
            if not own:
                lacking.append(f"{count} {s.numbers[child]}")
            elif is_count(SYMBOLS[s.unit[child]]) and not any(s.option[x] >= 0 or np.isnan(s.quantity[x]) for x in own):
                takes = sum(s.quantity[x] * FACTORS[s.line_unit[x], s.unit[child]] for x in own) / s.batch[sheet]
                if abs(takes - count) > 1e-9:
                    message = f"the model holds {count} of {s.numbers[child]}, and the sheet takes {takes:g}"
                    yield at_line(s, "model-count", LOOK, own[0], message, "correct the quantity, or bring in the model that holds")
        if lacking:
            message = f"the model holds {', '.join(lacking[:5])}{' …' if len(lacking) > 5 else ''}, which the sheet does not take"
            yield at_sheet(s, "model-count", LOOK, sheet, message, "put it on the sheet, or let it stand with a reason")
