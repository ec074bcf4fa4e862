"""The demo: Larkhaven Beacon Works and its harbour lanterns. All of it is invented."""

from typing import Any

from demo.tables import CENTERS, CLASSES, GROUPS, LIFECYCLES, MASSES, MORE, PART_CLASSES, PARTS, SHIFTS, STANDARDS, STOPS, SUPPLIERS

__all__ = ["demo_bundle"]


def _cells(text: str) -> list[list[str]]:
    return [[cell.strip() for cell in row.split("|")] for row in text.strip().splitlines()]


def _center(row: list[str]) -> dict[str, Any]:
    names = (
        "code",
        "name",
        "labor_rate",
        "setup_labor_rate",
        "machine_rate",
        "overhead_per_hour",
        "overhead_percent_of_labor",
        "efficiency_percent",
    )
    return dict(zip(names, row, strict=False)) | {
        "stations": int(row[8]),
        "shifts": SHIFTS.get(row[0], "Mo-Fr 07:00-15:30"),
        "group": GROUPS[row[0]],
        "paces": "100, 100, 85" if row[0] == "BENCH" else "",
        "stops": STOPS.get(row[0], []),
    }


def _part(row: list[str]) -> dict[str, Any]:
    number, description, kind, unit, cost, overhead, lot, days = row
    part_class = next((name for start, name in CLASSES.items() if number.startswith(start)), "")
    return {
        "number": number, "description": description, "kind": kind, "unit": unit, "unit_cost": cost or None,
        "overhead_percent": overhead or None, "costing_lot": lot or None, "lead_time_days": int(days),
        "lifecycle": LIFECYCLES.get(number, "active"), "default_alternate": "A" if number == "SC-40" else None,
        "part_class": part_class, "supplier": SUPPLIERS.get(part_class, "") if kind == "bought" else "",
        **MORE.get(number, {}),
        **({"mass_kg": MASSES[number]} if number in MASSES else {}),
    }  # fmt: skip


def _op(sequence: int, name: str, center: str, setup: str, run: str, **more: Any) -> dict[str, Any]:
    return {"sequence": sequence, "name": name, "work_center": center, "setup_minutes": setup, "run_minutes": run} | more


def _outside(sequence: int, name: str, supplier: str, price: str, least: str, days: int, **more: Any) -> dict[str, Any]:
    return {
        "sequence": sequence,
        "name": name,
        "subcontract": {"supplier": supplier, "unit_price": price, "minimum_charge": least, "lead_days": days},
    } | more


def _sheet(part: str, operations: list[dict], *lines: tuple[str, str, str, dict], **head: Any) -> dict[str, Any]:
    """Lines as (part, quantity, unit, more); items count by tens, and a text line has no part."""
    made = []
    for index, (number, quantity, unit, more) in enumerate(lines, 1):
        line: dict[str, Any] = {"item": 10 * index, "part": number or None, "quantity": quantity or None, "unit": unit or None}
        made.append(line | more)
    return {"part": part, "status": "released", "effective_from": "2026-02-02", "operations": operations, "lines": made} | head


_TEST = """## Test at 24 V

1. Grease the seal ring *thinly*, close the lens.
2. Eight screws crosswise, **2.2 Nm**, thread locker on each.
3. Ten minutes at 24 V; keep the record with the lantern.
"""


def _lantern(engine: str, revision: str, **head: Any) -> dict[str, Any]:
    at = {n: {"issue_at": n} for n in (10, 20, 30, 40)}
    return _sheet(
        "HL-155",
        [
            _op(10, "Fit light engine", "BENCH", "12", "6.5", stations=2),
            _op(20, "Pot and cure", "POT", "20", "4", wait_minutes="1440", yield_percent="99"),
            _op(30, "Close, seal, test", "TEST", "8", "5", instructions=_TEST),
            _op(40, "Pack", "PACK", "5", "3", any_of_group=True),
        ],
        ("HL155-20", engine, "ea", at[10]),
        ("HL155-30", "1", "ea", at[10] | {"scrap_percent": "1"}),
        ("FLS-01", "1", "ea", at[10]),
        ("FLS-01", "1", "ea", at[10] | {"option": "SYNC", "option_action": "remove"}),
        ("SYN-01", "1", "ea", at[10] | {"option": "SYNC"}),
        ("GLD-20", "1", "ea", at[10]),
        ("GLD-20", "1", "ea", at[10] | {"option": "SOLAR", "option_action": "remove"}),
        ("HL155-40", "1", "ea", at[10] | {"option": "SOLAR"}),
        ("CMP-0402", "0.32", "kg", at[20] | {"scrap_percent": "5"}),
        ("SK-155", "1", "ea", at[30]),
        ("HL155-10", "1", "ea", at[30] | {"yield_percent": "99"}),
        ("LNS-155", "1", "ea", at[30] | {"option": "SPARE"}),
        ("CMP-0455", "0.4", "mL", at[30]),
        ("GRS-02", "", "g", at[30]),
        ("LBL-0031", "1", "ea", at[30]),
        ("", "", "", at[30] | {"kind": "text", "text": "Test at 24 V for ten minutes; keep the record with the lantern."}),
        ("CR-155", "1", "ea", at[40]),
        ("FRT-IN", "1", "ea", at[40]),
        revision=revision,
        **head,
    )


def _controller(alternate: str, reference: str, board: tuple[str, str, str, dict]) -> dict[str, Any]:
    return _sheet(
        "SC-40",
        [_op(10, "Assemble", "BENCH", "10", "9"), _op(20, "Test", "TEST", "12", "6")],
        board,
        ("BOX-40", "1", "ea", {"issue_at": 10}),
        ("GLD-20", "2", "ea", {"issue_at": 10}),
        ("RAD-01", "1", "ea", {"issue_at": 10, "option": "RADIO"}),
        ("CAB-05", "12", "m", {"issue_at": 20, "option": "WIRED"}),
        ("LBL-0031", "1", "ea", {"issue_at": 20}),
        alternate=alternate,
        reference=reference,
    )


def demo_bundle() -> dict[str, Any]:
    """The demo as a bundle."""
    chips = [f"R{i}" for i in range(1, 9)]
    sheets = [
        _lantern("1", "A"),
        _lantern("1", "B", status="draft", effective_from=None),
        _sheet(
            "HL-200",
            [_op(10, "Assemble", "BENCH", "15", "11"), _op(20, "Pot and cure", "POT", "20", "6", wait_minutes="1440"),
             _op(30, "Close, seal, test", "TEST", "8", "7")],
            ("HL155-20", "2", "ea", {"issue_at": 10}), ("FLS-01", "1", "ea", {"issue_at": 10}), ("CMP-0402", "0.55", "kg", {"issue_at": 20, "scrap_percent": "5"}),
            ("LNS-200", "1", "ea", {"issue_at": 30, "yield_percent": "98.5"}), ("SK-155", "1", "ea", {"issue_at": 30}), ("LBL-0031", "1", "ea", {"issue_at": 30}),
        ),
        _sheet(
            "HL155-10", [_op(10, "Press in seal, fit ring", "BENCH", "6", "2.2")],
            ("LNS-155", "1", "ea", {"scrap_percent": "1.5"}), ("ORG-150", "1", "ea", {}), ("HL155-11", "1", "ea", {}),
        ),
        _sheet(
            "HL155-11", [_op(10, "Turn and part off", "TURN", "35", "3.4", yield_percent="98"), _op(20, "Deburr", "BENCH", "0", "0.8", standard="DEBURR", standard_version=1)],
            ("BAR-AL65", "14", "mm", {"fixed_loss": "90"}), ("SWF-AL", "38", "g", {"kind": "byproduct"}),
        ),
        _sheet(
            "HL155-20", [_op(10, "Paste and mount board", "BENCH", "8", "3.5"), _op(20, "Light test", "TEST", "10", "1.5", yield_percent="99.5")],
            ("HL155-21", "1", "ea", {"scrap_percent": "1"}), ("HL155-22", "1", "ea", {}), ("CMP-0417", "0.8", "g", {"scrap_percent": "10"}),
        ),
        _sheet(
            "HL155-21", [_op(10, "Print and place", "PLACE", "75", "0.9", yield_percent="98.5", transfer_quantity="24"), _op(20, "Reflow", "PLACE", "10", "6", run_basis="per_cycle", cycle_quantity="24"),
                         _op(30, "Inspect and trim", "BENCH", "5", "1.6")],
            ("PCB-1021", "1", "ea", {"issue_at": 10}),
            ("EMT-4700", "12", "ea", {"issue_at": 10, "scrap_percent": "0.5", "reference_designators": [f"D{i}" for i in range(1, 13)]}),
            ("DRV-0310", "2", "ea", {"issue_at": 10, "reference_designators": ["U1", "U2"]}),
            ("RES-0472", "8", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "20", "reference_designators": chips}),
            ("RES-0151", "4", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "20", "reference_designators": ["R9", "R10", "R11", "R12"]}),
            ("CAP-0475", "3", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "10", "reference_designators": ["C1", "C2", "C3"]}),
            ("CAP-0104", "6", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "10", "reference_designators": [f"C{i}" for i in range(4, 10)]}),
            ("CAP-0104", "2", "ea", {"issue_at": 10, "not_fitted": True, "reference_designators": ["C10", "C11"]}),
        ),
        _sheet(
            "HL155-22", [_op(10, "Cut blank", "LASER", "15", "0.7", run_expression="round(0.3 + cut_length_mm / 1000, 2)"), _outside(20, "Anodise, black", "Quayside Finishing", "1.85", "240", 7)],
            ("SHT-AL3", "0.0121", "m2", {"scrap_percent": "12"}),
        ),
        _sheet(
            "HL155-30", [_op(10, "Face, bore, drill", "MILL", "40", "8.5", yield_percent="97"), _outside(20, "Powder coat, yellow", "Saltmarsh Coatings", "4.60", "310", 10),
                         _op(30, "Fit inserts", "BENCH", "4", "2")],
            ("CST-155", "1", "ea", {"issue_at": 10}), ("SWF-AL", "0.19", "kg", {"kind": "byproduct", "issue_at": 10}),
        ),
        _sheet(
            "HL155-40", [_op(10, "Fit panel and battery", "BENCH", "6", "7")],
            ("PNL-12", "1", "ea", {}), ("BAT-07", "1", "ea", {}), ("SCR-M5", "6", "ea", {}), ("WSH-M5", "6", "ea", {}),
        ),
        _sheet(
            "SK-155", [],
            ("GSK-155", "1", "ea", {}), ("SCR-M5", "8", "ea", {"scrap_percent": "2"}), ("WSH-M5", "8", "ea", {"scrap_percent": "2"}),
        ),
        _sheet("GSK-155", [_op(10, "Cut", "LASER", "10", "0.35")], ("SHT-EPDM", "0.0289", "m2", {"scrap_percent": "18"})),
        _sheet(
            "CMP-0402", [_op(10, "Weigh and mix", "POT", "15", "25", run_basis="per_cycle", cycle_quantity="10")],
            ("RSN-20", "7.2", "kg", {}), ("HRD-20", "2.1", "kg", {}), ("FIL-07", "2.9", "kg", {"scrap_percent": "1"}), batch="12",
        ),
        _sheet(
            "CR-155", [_op(10, "Nail together", "CUT", "5", "6")],
            ("CR-155-1", "6", "ea", {}), ("BTN-30", "2.4", "m", {"scrap_percent": "8", "cut": "10 × 240"}), ("NIL-40", "60", "g", {}),
        ),
        _sheet("CR-155-1", [_op(10, "Cut to size", "CUT", "12", "0.9")], ("PLY-09", "0.0576", "m2", {"scrap_percent": "14", "cut": "1 × 240 × 240, grain length"})),
        _sheet(
            "CR-200", [_op(10, "Nail together", "CUT", "5", "8")],
            ("CR-200-1", "2", "ea", {}), ("PLY-09", "0.2928", "m2", {"scrap_percent": "15", "cut": "2 × 480 × 305, grain length, over 2"}),
            ("PLY-09", "0.276", "m2", {"scrap_percent": "15", "cut": "2 × 460 × 300"}), ("BTN-30", "2.52", "m", {"scrap_percent": "8", "cut": "6 × 420"}),
            ("BTN-30", "1.14", "m", {"scrap_percent": "8", "cut": "4 × 285"}), ("NIL-40", "75", "g", {}),
        ),
        _sheet("CR-200-1", [_op(10, "Cut to size, edge", "CUT", "12", "1.4")], ("PLY-09", "0.0945", "m2", {"scrap_percent": "15", "cut": "1 × 315 × 300, grain width, edges 0.8 0.8 0 0"})),
        _controller("A", "own assembly", ("SC40-21", "1", "ea", {"issue_at": 10})),
        _controller("B", "bought-in board", ("SC40-B", "1", "ea", {"issue_at": 10})),
        _sheet(
            "SC40-21", [_op(10, "Print and place", "PLACE", "60", "0.7", yield_percent="98"), _op(20, "Reflow", "PLACE", "10", "6", run_basis="per_cycle", cycle_quantity="18")],
            ("PCB-1044", "1", "ea", {}), ("MCU-0808", "1", "ea", {"reference_designators": ["U1"]}), ("DRV-0310", "1", "ea", {"reference_designators": ["U2"]}),
            ("RES-0472", "6", "ea", {"scrap_percent": "2", "reference_designators": [f"R{i}" for i in range(1, 6)]}),
            ("CAP-0104", "4", "ea", {"scrap_percent": "2", "reference_designators": [f"C{i}" for i in range(1, 5)]}),
        ),
    ]  # fmt: skip
    draft = sheets[1]
    # What the draft changes: a second look at the compound, and a tighter test.
    draft["lines"][8]["quantity"] = "0.29"
    draft["operations"][2]["run_minutes"] = "4.5"
    draft["lines"].append({"item": 190, "part": "TOR-M5", "quantity": "8", "unit": "ea", "issue_at": 30})
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "options": [
            {"code": "SOLAR", "name": "Solar collar instead of mains"},
            {"code": "SPARE", "name": "Spare lens"},
            {"code": "SYNC", "name": "Synchronised timing"},
            {"code": "RADIO", "name": "Joined by radio", "not_with": ["WIRED"]},
            {"code": "WIRED", "name": "Joined by cable"},
        ],
        "work_centers": [_center(row) for row in _cells(CENTERS)],
        "standard_operations": STANDARDS,
        "part_classes": PART_CLASSES,
        "parts": [_part(row) for row in _cells(PARTS)],
        "build_sheets": sheets,
    }
