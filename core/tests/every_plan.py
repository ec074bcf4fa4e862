"""The cheapest plan once more, by trying everything in exact fractions over the file's own JSON; shares no code with the package.

Only for small numbers: every quantity of every offer up to the one that reaches its supplier's minimum by itself, every set of offers
up to the split, every combination of parts.
"""

from collections import defaultdict
from datetime import date, timedelta
from fractions import Fraction as F
from itertools import combinations, product
from math import ceil

__all__ = ["every_plan"]


def every_plan(document: dict) -> tuple[int, F]:
    """How many parts at least stay uncovered, and the least total of the plans that leave no more."""
    suppliers = {s["code"]: s for s in document["suppliers"]}
    needs: dict[str, list[tuple[str, F]]] = defaultdict(list)
    for need in document["needs"]:
        needs[need["part"]].append((need.get("by") or "9999-12-31", F(need["quantity"])))
    ways = [_ways(document, suppliers, part, asked) for part, asked in needs.items() if sum(q for _, q in asked)]
    best: tuple[int, F] | None = None
    for plan in product(*ways):
        goods: dict[str, F] = defaultdict(F)
        missed, credit = 0, F(0)
        for way in plan:
            if way is None:
                missed += 1
                continue
            credit += way[1]
            for code, cost in way[0]:
                goods[code] += cost
        if best and missed > best[0]:
            continue
        total = -credit
        for code, cost in goods.items():
            charge = F(suppliers[code].get("small_order_charge") or 0)
            if cost < F(suppliers[code].get("minimum_order") or 0):
                if suppliers[code].get("small_order_charge") is None:
                    break
                total += charge
            total += cost + F(suppliers[code].get("freight") or 0)
        else:
            if best is None or (missed, total) < best:
                best = (missed, total)
    assert best is not None
    return best


def _ways(document: dict, suppliers: dict, part: str, asked: list[tuple[str, F]]) -> list:
    """All ways to cover a part: what it takes of each supplier, and the credit; None stands for leaving it uncovered."""
    day = date.fromisoformat(document["day"])
    hold = document.get("hold_to_days", True)
    total = sum(q for _, q in asked)
    over = document.get("surplus_percent")
    most = None if over is None else total * (1 + F(over) / 100)
    worth = F(document.get("surplus_worth_percent") or 0) / 100
    days = sorted({by for by, _ in asked}) if hold else ["9999-12-31"]
    usable = []
    for offer in document["offers"]:
        if offer["part"] != part or (offer.get("valid_to") or "9999-12-31") < document["day"]:
            continue
        arrives = (day + timedelta(days=offer.get("lead_days") or 0)).isoformat()
        if not hold or arrives <= days[-1]:
            usable.append((offer, arrives))
    ways: list = [None]
    for count in range(1, document.get("split", 1) * len(days) + 1):
        for chosen in combinations(usable, count):
            for quantities in product(*(_quantities(document, suppliers, offer, total) for offer, _ in chosen)):
                bought = sum(q for q, _ in quantities)
                if bought < total or (most is not None and bought > most):
                    continue
                if hold and not all(
                    sum(q for (q, _), (_, arrives) in zip(quantities, chosen, strict=True) if arrives <= by)
                    >= sum(q for b, q in asked if b <= by)
                    for by in days
                ):
                    continue
                left, credit = bought - total, F(0)
                for quantity, price in sorted(quantities, key=lambda q: -q[1]):
                    credit += worth * price * min(left, quantity)
                    left -= min(left, quantity)
                ways.append(([(o["supplier"], q * p) for (o, _), (q, p) in zip(chosen, quantities, strict=True)], credit))
    return ways


def _quantities(document: dict, suppliers: dict, offer: dict, total: F) -> list[tuple[F, F]]:
    """Every quantity that may be worth buying, with its price in the currency of the plan."""
    rate = F(1) if offer["currency"] == document["currency"] else F(document["rates"][offer["currency"]])
    breaks = sorted((F(b["from"]), F(b["price"]) * rate) for b in offer["breaks"])
    multiple = F(offer.get("multiple") or 1)
    cheapest = min(price for _, price in breaks)
    minimum = F(suppliers[offer["supplier"]].get("minimum_order") or 0)
    last = max(total, breaks[-1][0]) + (minimum / cheapest if cheapest else 0) + multiple + F(offer.get("minimum") or 0)
    if offer.get("available") is not None:
        last = min(last, F(offer["available"]))
    found = []
    for n in range(1, ceil(last / multiple) + 1):
        quantity = n * multiple
        reached = [price for start, price in breaks if start <= quantity]
        if reached and F(offer.get("minimum") or 0) <= quantity <= last:
            found.append((quantity, reached[-1]))
    return found
