"""Random bundles that use every rule, from a seed. Invented structures, for comparison with exact arithmetic only."""

import random

FAMILIES = {"ea": ["ea", "dozen", "pair"], "kg": ["kg", "g", "lb"], "m": ["m", "mm", "in"], "L": ["L", "mL", "gal"]}
OPTIONS = ["RED", "BLUE"]
DAY = "2026-06-15"


def bundle(seed: int, parts: int = 14) -> tuple[dict, str, list[str]]:
    """A bundle, the number of its top part, and the options to choose."""
    r = random.Random(seed)
    centers = [
        {
            "code": f"WC{i}",
            "labor_rate": f"{r.randint(2000, 6000) / 100}",
            "machine_rate": f"{r.randint(0, 4000) / 100}",
            "overhead_per_hour": f"{r.randint(0, 900) / 100}",
            "overhead_percent_of_labor": f"{r.randint(0, 120)}",
            "efficiency_percent": f"{r.randint(70, 110)}",
        }
        | ({"setup_labor_rate": f"{r.randint(2000, 6000) / 100}"} if r.random() < 0.5 else {})
        for i in range(3)
    ]
    # From a source of its own, so that the rest of a seed's bundle stays what it was.
    changing = random.Random(seed + 1000)
    pricing = random.Random(seed + 2000)
    splitting = random.Random(seed + 3000)
    for center in centers:
        days = changing.sample(["2026-01-01", "2026-06-15", "2026-06-16", "2027-01-01"], changing.randint(0, 3))
        names = ("labor_rate", "setup_labor_rate", "machine_rate", "overhead_percent_of_labor")
        center["rates"] = [
            {"first_day": day} | {n: f"{changing.randint(0, 9000) / 100}" for n in names if changing.random() < 0.5} for day in days
        ]
    records, sheets = [], []
    for i in range(parts):
        last = i > parts * 0.55
        kind = r.choice(["bought", "bought", "bought", "charge"]) if last else r.choice(["made", "made", "made", "phantom"])
        if i == 0:
            kind = "made"
        unit = "ea" if i == 0 else r.choice(["ea", "ea", *FAMILIES])
        record = {"number": f"P{i:02}", "kind": kind, "unit": unit}
        if kind in ("bought", "charge") and r.random() < 0.95:
            record["unit_cost"] = f"{r.randint(1, 99999) / 1000}"
        if kind == "bought" and r.random() < 0.3:
            record["overhead_percent"] = f"{r.randint(1, 250) / 10}"
        if kind == "made" and r.random() < 0.7:
            record["costing_lot"] = str(r.choice([5, 10, 25, 100, 2.5 if unit != "ea" else 12]))
        if i and r.random() < 0.06:
            record["given_cost"] = f"{r.randint(1, 5000) / 100}"
            if splitting.random() < 0.6:
                record["given_as"] = "proportion"
        if r.random() < 0.15:
            record["whole_only"] = r.random() < 0.5
        if kind != "phantom" and "given_cost" not in record and changing.random() < 0.1:
            record |= {"markup_percent": f"{changing.randint(-100, 300) / 10}", "given_reason": "as agreed"}
        if kind in ("bought", "charge") and pricing.random() < 0.4:
            days = pricing.sample(["2026-01-01", "2026-06-15", "2026-06-16", "2027-01-01"], pricing.randint(1, 3))
            record["prices"] = [{"from": d, "unit_cost": f"{pricing.randint(0, 99999) / 1000}"} for d in days]
        records.append(record)
    for i, record in enumerate(records):
        if record["kind"] in ("made", "phantom") and i < parts - 1:
            sheets.append(sheet(r, record, records[i + 1 :], centers))
    document = {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "work_centers": centers,
        "options": [{"code": code} for code in OPTIONS],
        "parts": records,
        "build_sheets": sheets,
    }
    return document, "P00", [o for o in OPTIONS if r.random() < 0.5]


def sheet(r: random.Random, made: dict, below: list[dict], centers: list[dict]) -> dict:
    phantom = made["kind"] == "phantom"
    operations = [] if phantom else [operation(r, 10 * (k + 1), centers) for k in range(r.randint(0, 3))]
    lines = [line(r, 10 * (k + 1), r.choice(below), phantom, operations) for k in range(r.randint(1, 5))]
    for given in list(lines):
        counts = given["kind"] != "text" and "quantity" in given and not given.get("not_fitted")
        dated = "effective_from" in given or "effective_to" in given
        if counts and not dated and "option" not in given and r.random() < 0.2:
            lines.append(
                {
                    "item": 900 + len(lines),
                    "kind": given["kind"],
                    "part": given["part"],
                    "unit": given["unit"],
                    "quantity": f"{float(given['quantity']) * r.choice([0.25, 0.5, 1]):.6f}",
                    "quantity_basis": given["quantity_basis"],
                    "option": r.choice(OPTIONS),
                    "option_action": "remove",
                }
            )
            break
    r.shuffle(operations)
    found = {"part": made["number"], "status": "released", "effective_from": "2026-01-01", "lines": lines, "operations": operations}
    if r.random() < 0.3:
        found["batch"] = r.choice(["12", "2.5", "100"])
    return found


def line(r: random.Random, item: int, part: dict, phantom: bool, operations: list[dict]) -> dict:
    if r.random() < 0.05:
        return {"item": item, "kind": "text", "text": "See drawing"}
    found = {
        "item": item,
        "kind": "component",
        "part": part["number"],
        "unit": r.choice(FAMILIES[part["unit"]]),
        "quantity": f"{r.randint(1, 4000) / 1000}",
        "quantity_basis": "per_unit",
    }
    if r.random() < 0.1:
        found["kind"] = "byproduct"
    elif r.random() < 0.4:
        found["scrap_percent"] = f"{r.randint(1, 200) / 10}"
    elif r.random() < 0.3:
        found["yield_percent"] = f"{r.randint(700, 1000) / 10}"
    if not phantom and found["kind"] == "component":
        if r.random() < 0.15:
            found["quantity_basis"] = "per_lot"
        if r.random() < 0.15:
            found["fixed_loss"] = str(r.randint(1, 3))
    if operations and r.random() < 0.6:
        found["issue_at"] = r.choice(operations)["sequence"]
    if r.random() < 0.15:
        found |= {"option": r.choice(OPTIONS), "option_action": "add"}
    if r.random() < 0.06:
        found["customer_supplied"] = True
    if r.random() < 0.06:
        found["not_fitted"] = True
    if r.random() < 0.04:
        del found["quantity"]
    if r.random() < 0.12:
        found["effective_from"] = r.choice([DAY, "2026-06-16", "2026-02-01"])
    elif r.random() < 0.1:
        found["effective_to"] = r.choice([DAY, "2026-06-16", "2027-01-01"])
    return found


def operation(r: random.Random, sequence: int, centers: list[dict]) -> dict:
    found: dict = {"sequence": sequence, "yield_percent": f"{r.choice([100, 100, 98, 92.5])}"}
    if r.random() < 0.2:
        return found | {"subcontract": {"unit_price": f"{r.randint(1, 900) / 100}", "minimum_charge": str(r.choice([0, 50, 450]))}}
    found |= {
        "work_center": r.choice(centers)["code"],
        "setup_minutes": str(r.randint(0, 60)),
        "run_minutes": f"{r.randint(1, 120) / 10}",
        "crew": str(r.choice([1, 1, 2, 0.5])),
        "setup_crew": str(r.choice([1, 2])),
    }
    basis = r.choice(["per_unit", "per_unit", "per_cycle", "per_lot"])
    found["run_basis"] = basis
    if basis == "per_cycle":
        found["cycle_quantity"] = str(r.choice([4, 10, 12.5]))
    if r.random() < 0.15:
        found["piece_rate"] = f"{r.randint(1, 300) / 100}"
    # What works beside it is drawn apart, so that a seed goes on meaning the structure it always meant.
    beside = random.Random(f"{sequence} {found}")
    if beside.random() < 0.3:
        bases = ["per_unit", "per_lot"] + ["per_cycle"] * ("cycle_quantity" in found)
        found["resources"] = [
            {
                "work_center": beside.choice(centers)["code"],
                "run_minutes": f"{beside.randint(1, 90) / 10}",
                "run_basis": beside.choice(bases),
            }
            | beside.choice([{}, {"setup_minutes": "7.5", "crew": "2", "setup_crew": "3"}])
            for _ in range(beside.randint(1, 2))
        ]
    return found
