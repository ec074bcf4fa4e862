"""The cheapest plan: against choosing line by line, and against the same problem written down plainly."""

import random
import time
from datetime import date, timedelta
from decimal import Decimal as D
from itertools import pairwise

from bench.measure import DAY, medians, report

__all__ = ["net_needs_of_builds", "plan_against_line_by_line"]

_DAY = date(2026, 11, 25)


def net_needs_of_builds(number: str, days: int, each: int, bound: float) -> bool:
    """What the builds of a plan take of a product less what is there, reading included, over its needs for one job."""
    from buying.limits import Limits
    from buying.models import BuyPlan, PlanBuild
    from buying.needs import needs_of
    from django.db import transaction
    from loading.reads import load_question, part_named
    from tally_core.cost.answers import Basis
    from tally_core.structure.needs import job_needs

    part = part_named(number)

    def one() -> int:
        _, question = load_question(part, Basis(DAY, D(100)))
        return len(job_needs(question.structure, question.top, 100.0).gross)

    with transaction.atomic():
        plan = BuyPlan.objects.create(number="B-bench", title="bench", opened_by="bench")
        PlanBuild.objects.bulk_create(
            PlanBuild(plan=plan, part=part, quantity=10 + n, by=DAY + timedelta(days=30 + n % days)) for n in range(days * each)
        )
        found = len(needs_of(plan, Limits(), DAY))
        a, b = medians(lambda: needs_of(plan, Limits(), DAY), one, 5)
        transaction.set_rollback(True)
    return report(
        f"net need of {days * each} builds on {'one day' if days == 1 else f'{days} days'} / the needs of one job",
        a / b,
        f"at most {bound:g}" if bound else "for comparison",
        not bound or a / b <= bound,
        f"{a * 1000:.0f} ms and {b * 1000:.0f} ms; {found:,} parts to buy",
    )


def plan_against_line_by_line(needs: int, suppliers: int, offers: int, breaks: int) -> bool:
    """A plan within 0.1 % of its bound, over choosing for each need by itself; and the plain program over the plan.

    The choice line by line reads nothing from a database here: the bound is the stricter for it.
    """
    from tally_core.buying.cheapest import cheapest_plan
    from tally_core.buying.covering import asks
    from tally_core.buying.line_by_line import line_by_line

    purchase = _purchase(needs, suppliers, offers, breaks)
    began = time.perf_counter()
    asked, _ = asks(purchase)
    apart = line_by_line(purchase, asked)
    line = time.perf_counter() - began
    began = time.perf_counter()
    plan = cheapest_plan(purchase, gap=1e-3, seconds=120)
    whole = time.perf_counter() - began
    gap = float((plan.bought.total - plan.bound) / plan.bought.total)
    saved = float((apart.total - plan.bought.total) / apart.total) if apart else 0.0
    words = f"plan of {needs:,} needs, {suppliers} suppliers, {offers} offers with {breaks} breaks / choosing line by line"
    more = f"{whole:.2f} s and {line:.2f} s, {gap:.3%} from its bound (at most 0.1 %), {saved:.2%} saved"
    first = report(words, whole / line, "at most 20", whole / line <= 20 and gap <= 1e-3, more)
    plain, total = _plainly(purchase, 10 * whole)
    bound = "at most 0.2, the plain one given ten times the time"
    more = f"{whole:.2f} s and {plain:.1f} s" + (
        f", which came to {total / float(plan.bought.total):.4f} of the plan's total" if total else ", which found none"
    )
    second = report("plan / the same problem written down plainly", whole / plain, bound, whole / plain <= 0.2, more)
    return first and second


def _purchase(needs: int, suppliers: int, offers: int, breaks: int):
    from tally_core.buying.offers import Break, Need, Offer, Purchase, Supplier

    r = random.Random(7)
    codes = [f"S{n}" for n in range(suppliers)]
    charges = [None, D(25), D(60)]
    of = {c: Supplier(c, D(r.randint(10, 120)), D(r.choice([0, 100, 250, 500, 2000, 20000])), r.choice(charges)) for c in codes}
    wanted, offered = [], []
    for n in range(needs):
        part = f"P{n}"
        quantity = r.choice([r.randint(1, 30), r.randint(20, 800), r.randint(500, 9000)])
        wanted.append(Need(part, D(quantity), date(2027, 3, 1)))
        base = 10 ** r.uniform(-2.5, 1.5)
        for code in r.sample(codes, offers):
            price, start, steps = base * r.uniform(0.85, 1.25), 1, []
            for _ in range(breaks):
                steps.append(Break(D(start), D(f"{price:.5f}")))
                start, price = start * r.randint(4, 12), price * r.uniform(0.7, 0.95)
            offered.append(Offer(part, code, "", "EUR", tuple(steps), D(1), D(r.choice([1, 1, 5, 10, 100])), None, r.randint(1, 60)))
    return Purchase("EUR", _DAY, of, tuple(wanted), tuple(offered))


def _plainly(purchase, seconds: float) -> tuple[float, float | None]:
    """A switch for each need, offer and break, whole packs beside it, one large number for everything: seconds, and the total found."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    began = time.perf_counter()
    large = 1e6
    cost: list[float] = []
    whole: list[int] = []
    upper: list[float] = []
    entries: list[tuple[int, int, float]] = []
    low: list[float] = []
    high: list[float] = []

    def column(c: float, most: float) -> int:
        cost.append(c)
        whole.append(1)
        upper.append(most)
        return len(cost) - 1

    def row(terms: list[tuple[int, float]], least: float, most: float) -> None:
        entries.extend((len(low), c, v) for c, v in terms)
        low.append(least)
        high.append(most)

    at = {code: column(float(s.freight), 1) for code, s in purchase.suppliers.items()}
    goods: dict[str, list[tuple[int, float]]] = {code: [] for code in at}
    by_part: dict[str, list] = {}
    for offer in purchase.offers:
        by_part.setdefault(offer.part, []).append(offer)
    for need in purchase.needs:
        cover, switches = [], []
        for offer in by_part[need.part]:
            step = float(offer.multiple)
            for here, then in [*pairwise(offer.breaks), (offer.breaks[-1], None)]:
                used, packs = column(0.0, 1), column(float(here.price) * step, large)
                row([(packs, step), (used, -float(here.start))], 0, np.inf)
                row([(packs, step), (used, -(float(then.start) - 1e-6 if then else large))], -np.inf, 0)
                row([(used, 1.0), (at[offer.supplier], -1.0)], -np.inf, 0)
                cover.append((packs, step))
                switches.append((used, 1.0))
                goods[offer.supplier].append((packs, float(here.price) * step))
        row(cover, float(need.quantity), np.inf)
        row(switches, 1, 1)
    for code, supplier in purchase.suppliers.items():
        if supplier.minimum_order:
            terms = [*goods[code], (at[code], -float(supplier.minimum_order))]
            if supplier.small_order_charge is not None:
                terms.append((column(float(supplier.small_order_charge), 1), large))
            row(terms, 0, np.inf)
    rows, columns, values = zip(*entries, strict=True)
    matrix = coo_array((values, (rows, columns)), shape=(len(low), len(cost)))
    found = milp(
        np.array(cost),
        integrality=np.array(whole),
        bounds=Bounds(0, np.array(upper)),
        constraints=LinearConstraint(matrix.tocsr(), low, high),
        options={"time_limit": seconds, "mip_rel_gap": 1e-3},
    )
    return time.perf_counter() - began, found.fun
