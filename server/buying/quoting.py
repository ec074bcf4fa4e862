"""What a quantity of an inquiry costs: material as it was planned, labor and the rest rolled up for that lot (rules C1 to C5, B5)."""

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from definition.models.parts import Part
from django.utils.timezone import localdate
from loading.loaded import Loaded
from loading.reads import load_product, question_of
from tally_core.basics.elements import ELEMENT, ELEMENTS
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.basics.rounding import decimal_text
from tally_core.buying.pricing import Once, Priced, priced
from tally_core.cost.answers import Basis
from tally_core.cost.cost import job_lots, roll_up
from tally_core.structure.needs import average_needs, job_needs
from tally_core.structure.structure import require_sheets

from buying.limits import limits_of
from buying.models import BuyPlan, Offer, PlanNeed, Quote

__all__ = ["FREIGHT", "WORDS", "costs_of_plans", "moved_since", "prices_of"]

#: What suppliers take once for the orders of a plan, less what surplus is credited: beside the elements of a roll-up.
FREIGHT = "freight"
WORDS = {name: element.word for name, element in ELEMENT.items()} | {FREIGHT: "freight and charges"}


def costs_of_plans(plans: Iterable[BuyPlan]) -> list[dict[str, Any]]:
    """For each plan of one product what its quantity costs, and what of it is uncertain.

    Raises ProblemsError naming the plans that cannot be priced.
    """
    problems, found = [], []
    for plan in plans:
        builds = list(plan.builds.select_related("part"))
        if plan.result is None or plan.planned_version != plan.version:
            problems.append(Problem("", f"{plan.number} was changed since it was planned; plan it anew first"))
        elif len(builds) != 1:
            problems.append(Problem("", f"{plan.number} builds more than one product; a quote prices one at a time"))
        else:
            found.append(_costs(plan, builds[0].part, builds[0].quantity, builds[0].options))
    if problems:
        raise ProblemsError(problems)
    return sorted(found, key=lambda c: (c["part"], Decimal(c["quantity"])))


def _costs(plan: BuyPlan, part: Part, quantity: Decimal, options: list[str]) -> dict[str, Any]:
    limits = limits_of(plan)
    basis = Basis(localdate(), quantity, tuple(options), limits.drafts)
    loaded = load_product(part, basis)
    question = question_of(loaded, part, basis)
    s = question.structure
    require_sheets(s, question.top, given_cost_suffices=True, day=basis.as_of)
    lots = job_lots(s, job_needs(s, question.top, float(quantity)))
    each = average_needs(s, question.top, lots)
    parts, uncertain = [], []
    needs = list(plan.needs.select_related("part"))
    offers = Offer.objects.in_bulk({b["offer"] for n in needs for b in n.bought})
    for need in needs:
        row = loaded.row(need.part_id)
        taken = each[row] * float(quantity)
        if taken <= 0:
            continue
        known = _known_cost(loaded, row)
        paid, source, doubt = _paid(need, Decimal(decimal_text(taken)), known, offers)
        # What the part costs over all that the job takes of it: so the roll-up comes to what is paid.
        loaded.parts.unit_cost[row] = float(paid) / taken
        parts.append(
            {
                "part": need.part.number,
                "description": need.part.description,
                "unit": need.said["unit"],
                "quantity": decimal_text(taken),
                "price": decimal_text(float(paid) / taken, 9),
                "cost": decimal_text(float(paid)),
                **source,
            }
        )
        uncertain += [f"{need.part.number}: {words}" for words in doubt]
    unit = roll_up(s, lots, question.fixed).unit[question.top]
    elements = {name: decimal_text(value * float(quantity)) for name, value in zip(ELEMENTS, unit, strict=True)}
    result = plan.result or {}
    once = sum((Decimal(o["freight"]) + Decimal(o["charge"]) for o in result["orders"]), Decimal(0)) - Decimal(result["credit"])
    return {
        "plan": plan.number,
        "plan_id": plan.pk,
        "part": part.number,
        "description": part.description,
        "quantity": f"{quantity.normalize():f}",
        "options": options,
        "day": result["day"],
        "elements": elements | {FREIGHT: f"{once:.6f}"},
        "parts": parts,
        "uncertain": uncertain,
    }


def _known_cost(loaded: Loaded, row: int) -> Decimal | None:
    cost = float(loaded.parts.unit_cost[row])
    return None if cost != cost else Decimal(repr(cost))


def _paid(need: PlanNeed, taken: Decimal, known: Decimal | None, offers: dict[int, Offer]) -> tuple[Decimal, dict[str, Any], list[str]]:
    """What all that is taken of a part costs: what is bought as planned, what is there at the part's own cost, by itself or within
    sub-assemblies that are; where from, and what is uncertain."""
    said, doubt = need.said, []
    # A plan asks for nothing of what lies within a sub-assembly that is in stock; a quote is paid for it, too.
    within = max(taken - sum((Decimal(q) for _, _, q in said["asked"]), Decimal(0)), Decimal(0))
    there = Decimal(said["stock"]) + sum((Decimal(q) for _, _, q in said["orders"]), Decimal(0))
    open_ = sum((Decimal(q) for _, q in said["left"]), Decimal(0)) if need.reason else Decimal(0)
    bought = sum((Decimal(b["cost"]) for b in need.bought), Decimal(0))
    at_own = (known or Decimal(0)) * (there + open_ + within)
    if need.reason:
        doubt.append(f"{need.reason}; {'reckoned at its own cost' if known is not None else 'no price at all, counted as nothing'}")
    elif there and known is None:
        doubt.append("what is in stock has no cost, counted as nothing")
    if within and known is None:
        doubt.append("what lies within sub-assemblies in stock has no cost, counted as nothing")
    doubt += [f"{b['surplus']} more than needed are paid for" for b in need.bought if Decimal(b["surplus"]) > Decimal(b["quantity"]) / 4]
    doubt += [f"bought as {b['part']}, which stands in for it in this plan" for b in need.bought if b.get("part")]
    made = [offers[b["offer"]] for b in need.bought if b["offer"] in offers]
    source = {
        "suppliers": sorted({b["supplier"] for b in need.bought}) or (["in stock"] if there else []),
        "source": ", ".join(sorted({o.source if not o.source_words else f"{o.source} {o.source_words}" for o in made})) or "own cost",
        "offered": max((o.offered_at.date().isoformat() for o in made), default=None),
    }
    return bought + at_own, source, doubt


def prices_of(quote: Quote) -> list[tuple[dict[str, Any], Priced]]:
    """Each quantity of a quote with its price."""
    markups = {name: Decimal(percent) for name, percent in quote.markups.items()}
    once = [Once(o["words"], Decimal(o["amount"]), bool(o["spread"])) for o in quote.once]
    return [
        (
            of,
            priced(
                Decimal(of["quantity"]),
                {n: Decimal(c) for n, c in of["elements"].items()},
                markups,
                quote.overall_percent,
                once,
                quote.decimals,
            ),
        )
        for of in quote.costs
    ]


def moved_since(quote: Quote, before: Quote) -> list[dict[str, Any]]:
    """For each quantity that both quotes price: how its price of one moved, and which elements of cost moved by how much in all."""
    old = {(of["part"], Decimal(of["quantity"])): (of, price) for of, price in prices_of(before)}
    found = []
    for of, price in prices_of(quote):
        was = old.get((of["part"], Decimal(of["quantity"])))
        if was is None:
            continue
        causes = {
            WORDS[name]: f"{Decimal(cost) - Decimal(was[0]['elements'].get(name, '0')):.2f}"
            for name, cost in of["elements"].items()
            if abs(Decimal(cost) - Decimal(was[0]["elements"].get(name, "0"))) >= Decimal("0.005")
        }
        moved = price.each - was[1].each
        if moved or causes:
            found.append(
                {"part": of["part"], "quantity": of["quantity"], "before": f"{was[1].each:f}", "now": f"{price.each:f}", "causes": causes}
            )
    return found
