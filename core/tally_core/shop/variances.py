"""Rules W4 and W5: what an order came to, and the causes for which that is not what its good units were expected to cost."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from .expected import Amounts, OrderPlan, added, expected_cost

__all__ = ["CAUSES", "ActualLine", "ActualWork", "Cause", "CameTo", "came_to", "to_millionths"]

_NONE = Fraction(0)
#: In the order in which what is actual is replaced by what was expected.
CAUSES = (
    "material price",
    "material usage",
    "labor rate",
    "labor efficiency",
    "machine and overhead",
    "outside price",
    "yield",
    "lot",
    "substitution",
)


@dataclass(frozen=True, slots=True)
class ActualWork:
    """What was reported of one row of the plan's operations, all postings together; money at the rates of their days, by element."""

    started: Fraction = _NONE
    setup_hours: Fraction = _NONE
    run_hours: Fraction = _NONE
    cost: Amounts = field(default_factory=dict)
    invoiced: Fraction = _NONE


@dataclass(frozen=True, slots=True)
class ActualLine:
    """What was really taken for one line of the plan; of a by-product, what came back. ``value``: what it was worth when it was taken, by element.

    ``stood_in`` and ``stood_in_value`` are of other parts, taken in its place: how much of the line they stand for, and their worth.
    """

    taken: Fraction = _NONE
    value: Amounts = field(default_factory=dict)
    stood_in: Fraction = _NONE
    stood_in_value: Amounts = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Cause:
    """One cause at one place. ``at``: ("operation" | "line", row), or ("order", 0). ``terms``: what it was reckoned from, in words."""

    cause: str
    at: tuple[str, int]
    amount: Fraction
    terms: tuple[tuple[str, Fraction], ...] = ()


@dataclass(frozen=True, slots=True)
class CameTo:
    """Currency. ``expected``: for the good units, at the cost of one of the ordered quantity. ``causes`` add up to the difference."""

    good: Fraction
    expected: dict[str, Fraction]
    actual: dict[str, Fraction]
    causes: list[Cause]

    def by_cause(self) -> dict[str, Fraction]:
        """Each cause over the whole order."""
        sums = dict.fromkeys(CAUSES, _NONE)
        for cause in self.causes:
            sums[cause.cause] += cause.amount
        return sums


def _sum(amounts: Amounts) -> Fraction:
    return sum(amounts.values(), _NONE)


def came_to(plan: OrderPlan, good: Fraction, work: Sequence[ActualWork], lines: Sequence[ActualLine], unlisted: Amounts) -> CameTo:
    """Actual against expected (W4, W5).

    Args:
        work: over the operations of the plan; lines: over its lines.
        unlisted: the worth of what was taken that no line asks for, by element.

    The causes are differences between neighbours in a row of costs, from the actual one to the expected one: prices as expected, then
    quantities as allowed for the units really started, and so on; so they add up exactly. The first step of a pair carries what both move.
    """
    unit = {name: amount / plan.quantity for name, amount in expected_cost(plan, plan.quantity).items()}
    expected = {name: amount * good for name, amount in unit.items()}
    begun = [w.started for w in work]
    causes: list[Cause] = []

    def say(cause: str, at: tuple[str, int], amount: Fraction, *terms: tuple[str, Fraction]) -> None:
        if amount:
            causes.append(Cause(cause, at, amount, terms))

    actual = _actual(plan, good, work, lines, unlisted)
    _of_lines(plan, good, begun, lines, say)
    _of_work(plan, work, say)
    say("material usage", ("order", 0), _sum(unlisted), ("taken beyond the list", _sum(unlisted)))
    for row, (o, units, planned) in enumerate(zip(plan.operations, begun, plan.started(good), strict=True)):
        moved = _sum(o.cost(units)) - _sum(o.cost(planned))
        say("yield", ("operation", row), moved, ("started", units), ("planned to start", planned))
    for row, line in enumerate(plan.lines):
        sign = -1 if line.byproduct else 1
        allowed = line.gross(begun[line.operation])
        planned = line.gross(plan.started(good)[line.operation])
        moved = sign * (allowed - planned) * line.unit_price
        say("yield", ("line", row), moved, ("allowed for what was started", allowed), ("for the good units", planned))
    lot = _sum(expected_cost(plan, good)) - _sum(expected)
    say("lot", ("order", 0), lot, ("good units", good), ("ordered", plan.quantity))
    return CameTo(good, expected, actual, causes)


def _actual(
    plan: OrderPlan, good: Fraction, work: Sequence[ActualWork], lines: Sequence[ActualLine], unlisted: Amounts
) -> dict[str, Fraction]:
    """Rule W4 by element. Of a line, what stays in the good units keeps its elements, and what is more is scrap."""
    parts: list[Amounts] = [*(w.cost for w in work), {"subcontract": sum((w.invoiced for w in work), _NONE)}, unlisted]
    for line, a in zip(plan.lines, lines, strict=True):
        if line.byproduct:
            parts.append({"byproduct": -_sum(a.value) - _sum(a.stood_in_value)})
            continue
        taken, value = a.taken + a.stood_in, added(a.value, a.stood_in_value)
        stays = min(line.net(good) / taken, Fraction(1)) if taken > 0 else Fraction(1)
        parts.append({name: amount * stays for name, amount in value.items()})
        parts.append({"scrap": _sum(value) * (1 - stays)})
    return added(*parts)


def _of_lines(plan: OrderPlan, good: Fraction, begun: Sequence[Fraction], lines: Sequence[ActualLine], say: Callable[..., None]) -> None:
    for row, (line, a) in enumerate(zip(plan.lines, lines, strict=True)):
        sign, price = (-1 if line.byproduct else 1), line.unit_price
        paid = _sum(a.value)
        if a.taken:
            say(
                "material price",
                ("line", row),
                sign * (paid - a.taken * price),
                ("taken", a.taken),
                ("paid for one", paid / a.taken),
                ("expected for one", price),
            )
        else:
            say("material price", ("line", row), sign * paid)
        if a.stood_in or a.stood_in_value:
            worth = _sum(a.stood_in_value)
            say(
                "substitution",
                ("line", row),
                sign * (worth - a.stood_in * price),
                ("worth of what stood in", worth),
                ("stood for", a.stood_in),
                ("expected for one", price),
            )
        allowed = line.gross(begun[line.operation])
        moved = sign * (a.taken + a.stood_in - allowed) * price
        say(
            "material usage",
            ("line", row),
            moved,
            ("taken", a.taken + a.stood_in),
            ("allowed for what was started", allowed),
            ("expected for one", price),
        )


def _of_work(plan: OrderPlan, work: Sequence[ActualWork], say: Callable[..., None]) -> None:
    for row, (o, w) in enumerate(zip(plan.operations, work, strict=True)):
        at = ("operation", row)
        if o.outside_price is not None:
            due = _sum(o.cost(w.started))
            say("outside price", at, w.invoiced - due, ("invoiced", w.invoiced), ("expected for what was sent", due))
            if w.cost:
                say("machine and overhead", at, _sum(w.cost))
            continue
        say("outside price", at, w.invoiced, ("invoiced", w.invoiced))
        at_expected = o.paid(w.setup_hours, w.run_hours, w.started, o.rates)
        allowed = o.cost(w.started)
        setup, run = o.hours(w.started)
        hours, may = w.setup_hours + w.run_hours, setup + run

        def labor(cost: Amounts) -> Fraction:
            return cost.get("setup", _NONE) + cost.get("labor", _NONE)

        say(
            "labor rate",
            at,
            labor(w.cost) - labor(at_expected),
            ("paid", labor(w.cost)),
            ("the same hours at expected rates", labor(at_expected)),
        )
        say("labor efficiency", at, labor(at_expected) - labor(allowed), ("hours", hours), ("allowed for what was started", may))
        rest = _sum(w.cost) - labor(w.cost) - (_sum(allowed) - labor(allowed))
        say("machine and overhead", at, rest, ("hours", hours), ("allowed for what was started", may))


def to_millionths(amounts: Sequence[Fraction], total: Fraction) -> list[Fraction]:
    """Amounts rounded half-even to six decimals that still add up to their rounded total; what is left over goes to the largest.

    >>> [str(x) for x in to_millionths([Fraction(1, 3)] * 3, Fraction(1))]
    ['166667/500000', '333333/1000000', '333333/1000000']
    """
    rounded = [Fraction(round(a * 10**6), 10**6) for a in amounts]
    left = Fraction(round(total * 10**6), 10**6) - sum(rounded, _NONE)
    if left and rounded:
        rounded[max(range(len(rounded)), key=lambda i: abs(amounts[i]))] += left
    return rounded
