"""What an order came to: its postings against what it was released with (rules W4, W5), and while it runs, what is still to be expected."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Any

from tally_core.shop.expected import OrderPlan, added, expected_cost
from tally_core.shop.kept_plan import read_plan
from tally_core.shop.variances import CAUSES, ActualLine, ActualWork, CameTo, came_to, to_millionths

from shop.models import Component, OrderOperation, Posting, WorkOrder

__all__ = ["FORMAT", "actual_of", "expected_rest", "outcome", "plain_outcome", "whole_expected"]

FORMAT = 1
_NONE = Fraction(0)


def actual_of(plan: OrderPlan, postings: Iterable[Posting]) -> tuple[list[ActualWork], list[ActualLine], dict[str, Fraction]]:
    """The postings of an order added up by operation and by component; what no list asks for apart. Entries that were reversed cancel out."""
    started: dict[int, Fraction] = defaultdict(Fraction)
    setup: dict[int, Fraction] = defaultdict(Fraction)
    run: dict[int, Fraction] = defaultdict(Fraction)
    cost: dict[int, dict[str, Fraction]] = defaultdict(dict)
    invoiced: dict[int, Fraction] = defaultdict(Fraction)
    taken: dict[int, Fraction] = defaultdict(Fraction)
    value: dict[int, dict[str, Fraction]] = defaultdict(dict)
    stood: dict[int, Fraction] = defaultdict(Fraction)
    stood_value: dict[int, dict[str, Fraction]] = defaultdict(dict)
    unlisted: dict[str, Fraction] = {}
    for p in postings:
        amounts = {name: Fraction(text) for name, text in p.elements.items()}
        if p.kind == "work" and p.operation is not None:
            started[p.operation] += Fraction(p.good) + Fraction(p.scrapped)
            setup[p.operation] += Fraction(p.setup_minutes) / 60
            run[p.operation] += Fraction(p.run_minutes) / 60
            cost[p.operation] = added(cost[p.operation], amounts)
        elif p.kind == "invoice" and p.operation is not None:
            invoiced[p.operation] += Fraction(p.value)
        elif p.kind == "issue" and p.component is None:
            unlisted = added(unlisted, amounts)
        elif p.kind == "issue" and p.component is not None:
            if plan.lines[p.component].byproduct:
                amounts = {name: -amount for name, amount in amounts.items()}
            if p.stood_in:
                stood[p.component] += Fraction(p.stood_in)
                stood_value[p.component] = added(stood_value[p.component], amounts)
            else:
                taken[p.component] += Fraction(p.quantity)
                value[p.component] = added(value[p.component], amounts)
    work = [ActualWork(started[i], setup[i], run[i], cost[i], invoiced[i]) for i in range(len(plan.operations))]
    lines = [ActualLine(taken[i], value[i], stood[i], stood_value[i]) for i in range(len(plan.lines))]
    return work, lines, unlisted


def outcome(order: WorkOrder, postings: Iterable[Posting]) -> CameTo:
    """What a released order came to so far, for the good units received so far."""
    plan = read_plan(order.plan or {})
    return came_to(plan, Fraction(order.good), *actual_of(plan, postings))


def expected_rest(order: WorkOrder, postings: Iterable[Posting]) -> Fraction:
    """What is still to be spent on a running order, by its plan: of each operation what it has not started yet, of each component what it has not
    taken, of work outside what is not invoiced."""
    plan = read_plan(order.plan or {})
    work, lines, _ = actual_of(plan, postings)
    planned = plan.started(plan.quantity)
    rest = _NONE
    for o, w, units in zip(plan.operations, work, planned, strict=True):
        spent = w.invoiced if o.outside_price is not None else _total(o.cost(w.started))
        rest += max(_total(o.cost(units)) - spent, _NONE)
    for line, a in zip(plan.lines, lines, strict=True):
        left = max(line.gross(planned[line.operation]) - a.taken - a.stood_in, _NONE)
        rest += (-1 if line.byproduct else 1) * left * line.unit_price
    return rest


def _total(amounts: dict[str, Fraction]) -> Fraction:
    return sum(amounts.values(), _NONE)


def plain_outcome(
    order: WorkOrder, postings: Sequence[Posting], operations: Sequence[OrderOperation], components: Sequence[Component]
) -> dict[str, Any]:
    """What an order came to as plain values, as it is kept: money to six decimals, in which causes still add up to the difference."""
    result = outcome(order, postings)
    actual, expected = _total(result.actual), _total(result.expected)
    named = [c for c in result.causes if c.amount]
    amounts = to_millionths([c.amount for c in named], actual - expected)
    sums = dict.fromkeys(CAUSES, _NONE)
    for cause, amount in zip(named, amounts, strict=True):
        sums[cause.cause] += amount
    by_operation = {o.row: f"{o.sequence} {o.name}".strip() for o in operations}
    by_component = {c.row: c.part.number for c in components}
    words = {"operation": by_operation, "line": by_component, "order": {0: "the order"}}
    return {
        "format": FORMAT,
        "good": f"{order.good.normalize():f}",
        "expected": _plain(result.expected),
        "actual": _plain(result.actual),
        "expected_total": _text(expected),
        "actual_total": _text(actual),
        "difference": _text(sum(amounts, _NONE)),
        "by_cause": {name: _text(amount) for name, amount in sums.items()},
        "causes": [
            {
                "cause": cause.cause,
                "at": cause.at[0],
                "row": cause.at[1],
                "where": words[cause.at[0]].get(cause.at[1], ""),
                "amount": _text(amount),
                "terms": [{"label": label, "value": _text(value)} for label, value in cause.terms],
            }
            for cause, amount in zip(named, amounts, strict=True)
            if amount
        ],
    }


def _plain(amounts: dict[str, Fraction]) -> dict[str, str]:
    return {name: _text(amount) for name, amount in amounts.items() if amount}


def _text(amount: Fraction) -> str:
    rounded = round(amount * 10**6)
    return f"{Decimal(rounded).scaleb(-6):f}"


def whole_expected(plan: OrderPlan) -> dict[str, str]:
    """What the ordered quantity is expected to cost, by element."""
    return _plain(expected_cost(plan, plan.quantity))
