"""The parts, work centers, stock and orders of the demo, as tables. All of it is invented."""

from typing import Any

__all__ = [
    "CENTERS",
    "CLASSES",
    "FINISHED",
    "FIRST_ROUND",
    "GROUPS",
    "LIFECYCLES",
    "MAKERS",
    "MASSES",
    "MORE",
    "NEXT_ROUND",
    "OPEN_ORDERS",
    "PARTS",
    "PART_CLASSES",
    "SHIFTS",
    "STANDARDS",
    "STOCK",
    "STOPS",
    "SUBSTITUTES",
    "SUPPLIERS",
]


# code, name, labor, set-up labor, machine, overhead per hour, overhead % of labor, efficiency %, stations
CENTERS = """
TURN  | Turning cell     | 36 | 38 | 24 |  4 | 35 |  95 | 2
MILL  | Machining cell   | 38 | 40 | 31 |  5 | 35 |  92 | 2
LASER | Laser            | 34 | 34 | 58 |  6 | 30 |  96 | 1
PLACE | Placement line   | 35 | 42 | 66 |  9 | 30 |  90 | 1
BENCH | Bench group      | 32 | 32 |  0 |  3 | 40 | 100 | 3
POT   | Potting room     | 33 | 33 | 12 |  7 | 40 | 100 | 1
TEST  | Test bay         | 37 | 37 | 18 |  4 | 35 | 100 | 1
PACK  | Packing          | 29 | 29 |  0 |  2 | 30 | 100 | 1
CUT   | Saw and joinery  | 30 | 30 | 14 |  3 | 35 |  95 | 1
"""


#: Machines run in two shifts, the placement line from Monday to Thursday in three.
SHIFTS = dict.fromkeys(("TURN", "MILL", "LASER"), "Mo-Fr 06:00-14:00; Mo-Th 14:00-22:00") | {
    "PLACE": "Mo-Th 06:00-14:00; Mo-Th 14:00-22:00; Mo-Th 22:00-06:00; Fr 06:00-14:00"
}


#: The hall or department of each.
GROUPS = (
    dict.fromkeys(("TURN", "MILL", "LASER", "CUT"), "machine shop")
    | dict.fromkeys(("PLACE", "TEST"), "electronics")
    | dict.fromkeys(("BENCH", "POT", "PACK"), "assembly")
)


#: Planned stops.
STOPS = {
    "PLACE": [{"start": "2026-12-07T06:00", "end": "2026-12-08T14:00", "reason": "feeders moved"}],
    "POT": [{"start": "2026-12-14T07:00", "end": "2026-12-14T12:00", "reason": "vessel cleaned"}],
}


#: The library; the second version of DEBURR is younger than the routing that follows it.
STANDARDS: list[dict[str, Any]] = [
    {"code": "DEBURR", "version": 2, "operation": {
        "name": "Deburr", "work_center": "BENCH", "run_minutes": "0.7",
        "instructions": "All edges, **inside too**.\n\n- scraper first, then fleece\n- blow out the threads",
    }},
    {"code": "INSPECT", "operation": {
        "name": "Inspect and record", "work_center": "TEST", "setup_minutes": "6", "run_minutes": "1.2", "queue_minutes": "60",
    }},
    {"code": "PACK-STD", "operation": {"name": "Pack and label", "work_center": "PACK", "setup_minutes": "5", "run_minutes": "2.5"}},
    {"code": "CURE-24", "operation": {
        "name": "Cure overnight", "work_center": "POT", "setup_minutes": "5", "run_minutes": "2", "run_basis": "per_lot",
        "wait_minutes": "1440",
    }},
]  # fmt: skip


#: What the shop reports: part, operation, minutes each that it really takes, and the units of its last orders.
FINISHED = [
    ("HL-155", 10, 6.9, (50, 40, 50, 60, 50, 30, 50, 50, 40, 50, 50, 60)),
    ("HL-155", 30, 5.6, (50, 40, 50, 60, 50, 30, 50, 50, 40, 50, 50, 60)),
    ("HL155-21", 10, 0.98, (100, 100, 120, 80, 100, 100)),
    ("HL155-30", 10, 9.4, (50, 50, 50, 40, 60, 50, 50)),
]


# number, description, kind, unit, unit cost, overhead %, costing lot, lead time in days
PARTS = """
HL-155   | Harbour lantern, 155 mm               | made    | ea |         |   | 50  | 0
HL-200   | Harbour lantern, 200 mm               | made    | ea |         |   | 20  | 0
HL155-10 | Lens assembly, 155 mm                 | made    | ea |         |   | 50  | 0
HL155-11 | Retaining ring, turned                | made    | ea |         |   | 200 | 0
HL155-20 | Light engine                          | made    | ea |         |   | 100 | 0
HL155-21 | Circuit board assembly                | made    | ea |         |   | 100 | 0
HL155-22 | Heat spreader, anodised               | made    | ea |         |   | 200 | 0
HL155-30 | Base, machined and coated             | made    | ea |         |   | 50  | 0
HL155-40 | Solar collar                          | made    | ea |         |   | 25  | 0
SK-155   | Seal kit, 155 mm                      | phantom | ea |         |   |     | 0
GSK-155  | Gasket, base to lens                  | made    | ea |         |   | 500 | 0
CMP-0402 | Potting compound, two-part            | made    | kg |         |   | 12  | 0
CR-155   | Crate, 155 mm lantern                 | made    | ea |         |   | 25  | 0
CR-155-1 | Crate panel, cut                      | made    | ea |         |   | 150 | 0
CR-200   | Crate, 200 mm lantern, spare          | made    | ea |         |   | 10  | 0
CR-200-1 | Crate end, edged                      | made    | ea |         |   | 40  | 0
LNS-155  | Lens, moulded, clear, 155 mm          | bought  | ea | 8.40    | 3 |     | 35
LNS-200  | Lens, moulded, clear, 200 mm          | bought  | ea | 13.90   | 3 |     | 35
ORG-150  | Seal ring, 150 x 4 mm                 | bought  | ea | 0.62    | 3 |     | 14
BAR-AL65 | Aluminium tube, 160 x 6 mm            | bought  | m  | 41.50   | 3 |     | 21
SWF-AL   | Aluminium swarf                       | bought  | kg | 0.85    |   |     | 0
PCB-1021 | Bare board, 92 mm, four layers        | bought  | ea | 3.95    | 3 |     | 28
EMT-4700 | Emitter, white, 3 W                   | bought  | ea | 1.18    | 3 |     | 42
DRV-0310 | Constant-current driver, 1 A          | bought  | ea | 2.36    | 3 |     | 56
RES-0472 | Resistor 4.7 kΩ, 1 %, 0603            | bought  | ea | 0.0042  | 3 |     | 21
RES-0151 | Resistor 150 Ω, 1 %, 0805             | bought  | ea | 0.0061  | 3 |     | 21
CAP-0475 | Capacitor 4.7 µF, 25 V, 0805          | bought  | ea | 0.038   | 3 |     | 28
CAP-0104 | Capacitor 100 nF, 50 V, 0603          | bought  | ea | 0.0088  | 3 |     | 21
SHT-AL3  | Aluminium sheet, 3 mm                 | bought  | m2 | 38.20   | 3 |     | 14
CMP-0417 | Thermal paste                         | bought  | g  | 0.046   | 3 |     | 10
CST-155  | Base casting, aluminium               | bought  | ea | 11.75   | 3 |     | 42
SHT-EPDM | Gasket sheet, 3 mm                    | bought  | m2 | 22.60   | 3 |     | 14
SCR-M5   | Screw M5 x 16, stainless              | bought  | ea | 0.094   | 3 |     | 10
WSH-M5   | Washer M5, stainless                  | bought  | ea | 0.021   | 3 |     | 10
RSN-20   | Resin, part A                         | bought  | kg | 9.80    | 3 |     | 21
HRD-20   | Hardener, part B                      | bought  | kg | 16.40   | 3 |     | 21
FIL-07   | Mineral filler                        | bought  | kg | 1.35    | 3 |     | 14
CMP-0455 | Thread locker                         | bought  | mL | 0.31    | 3 |     | 10
GRS-02   | Silicone grease                       | bought  | g  | 0.028   | 3 |     | 10
FLS-01   | Flasher module, plain                 | bought  | ea | 6.20    | 3 |     | 28
SYN-01   | Timing module, synchronised           | bought  | ea | 19.80   | 3 |     | 49
GLD-20   | Mains gland, M20                      | bought  | ea | 1.74    | 3 |     | 14
PNL-12   | Solar panel, 12 W                     | bought  | ea | 14.60   | 3 |     | 42
BAT-07   | Battery, 7 Ah                         | bought  | ea | 17.30   | 3 |     | 28
LBL-0031 | Name plate, etched                    | bought  | ea | 0.86    | 3 |     | 21
PLY-09   | Plywood, 9 mm                         | bought  | m2 | 11.20   | 3 |     | 10
BTN-30   | Batten, 30 x 30 mm                    | bought  | m  | 1.05    | 3 |     | 10
NIL-40   | Nail, 40 mm                           | bought  | kg | 3.10    | 3 |     | 7
FRT-IN   | Inbound freight, share of one lantern | charge  | ea | 1.20    |   |     | 0
SC-40    | Shore controller                      | made    | ea |         |   | 20  | 0
SC40-21  | Controller board, assembled here      | made    | ea |         |   | 40  | 0
SC40-B   | Controller board, bought in           | bought  | ea | 31.40   | 3 |     | 49
PCB-1044 | Bare board, 140 mm, two layers        | bought  | ea | 4.60    | 3 |     | 28
MCU-0808 | Microcontroller, 32 pins              | bought  | ea | 3.15    | 3 |     | 70
BOX-40   | Enclosure, sealed, 200 x 120 mm       | bought  | ea | 12.80   | 3 |     | 21
RAD-01   | Radio module, harbour band            | bought  | ea | 18.90   | 3 |     | 56
CAB-05   | Signal cable, five cores              | bought  | m  | 1.36    | 3 |     | 14
TOR-M5   | Torque label, sealed screws           | bought  | ea |         |   |     | 0
"""


#: The class of a part by how its number begins.
CLASSES = {
    "HL-": "lantern", "SC-": "controller", "HL155": "lantern assembly", "SC40": "controller assembly", "LNS": "optics", "ORG": "seal",
    "GSK": "seal", "SK-": "seal", "BAR": "bar and sheet", "SHT": "bar and sheet", "PLY": "timber", "BTN": "timber", "CR-": "crate",
    "PCB": "electronics", "EMT": "electronics", "DRV": "electronics", "RES": "electronics", "CAP": "electronics", "MCU": "electronics",
    "FLS": "electronics", "SYN": "electronics", "RAD": "electronics", "RSN": "compound", "HRD": "compound", "FIL": "compound",
    "CMP": "compound", "GRS": "compound", "SCR": "hardware", "WSH": "hardware", "NIL": "hardware", "CST": "casting",
}  # fmt: skip


#: Who parts of a class are bought from.
SUPPLIERS = {
    "electronics": "Northquay Components",
    "hardware": "Fathom Fasteners",
    "compound": "Lantern Chandlery",
    "seal": "Lantern Chandlery",
    "bar and sheet": "Holm Metals",
    "casting": "Holm Metals",
    "timber": "Holm Metals",
    "optics": "Northquay Components",
}


#: Classes with running numbers and fields of their own.
PART_CLASSES: list[dict[str, Any]] = [
    {
        "name": "electronics", "fields": [
            {"name": "tolerance_pct", "kind": "number"},
            {"name": "mounting", "kind": "choice", "choices": ["surface", "through hole"]},
            {"name": "approved_on", "kind": "date"},
        ],
    },
    {"name": "hardware", "prefix": "SCR-", "digits": 5, "start": 100, "step": 10, "fields": [
        {"name": "head", "kind": "choice", "choices": ["countersunk", "pan", "hexagon"]},
        {"name": "length_mm", "kind": "number", "unit": "mm"},
    ]},
    {
        "name": "bar and sheet", "prefix": "STK-", "digits": 4, "fields": [
            {"name": "length_mm", "kind": "number", "unit": "mm"},
            {"name": "width_mm", "kind": "number", "unit": "mm"},
            {"name": "gauge_mm", "kind": "number", "unit": "mm"},
            {"name": "density_kg_dm3", "kind": "number"},
            {"name": "piece_kg", "kind": "computed", "unit": "kg",
             "expression": "length_mm * width_mm * gauge_mm / 1000000 * density_kg_dm3"},
            {"name": "cut", "kind": "computed", "expression": "'saw' if gauge_mm > 12 else 'laser'"},
        ],
    },
]  # fmt: skip


#: What some parts are bought by, held at, and made of.
MORE: dict[str, dict[str, Any]] = {
    "BAR-AL65": {
        "buying_unit": "bar",
        "stock_per_buying_unit": "3",
        "reorder_level": "12",
        "order_multiple": "3",
        "material": "aluminium, drawn",
    },
    "SHT-AL3": {
        "own_values": {"length_mm": "2000", "width_mm": "1000", "gauge_mm": "3", "density_kg_dm3": "2.7"},
        "material": "aluminium, rolled",
    },
    "CMP-0417": {"unmodelled": True, "supplier": "Lantern Chandlery", "supplier_number": "LC-2210"},
    "CMP-0455": {"unmodelled": True, "supplier": "Lantern Chandlery", "supplier_number": "LC-2044"},
    "GRS-02": {"unmodelled": True, "supplier": "Lantern Chandlery", "supplier_number": "LC-7702"},
    "TOR-M5": {"unmodelled": True, "supplier": "Bright Press Labels", "supplier_number": "BP-0114"},
    "CAB-05": {
        "kept_in": "Main store, rack 2",
        "buying_unit": "roll",
        "stock_per_buying_unit": "50",
        "reorder_level": "40",
        "order_multiple": "50",
    },
    "RES-0472": {
        "reorder_level": "2000",
        "order_minimum": "5000",
        "order_multiple": "5000",
        "size_mm": "1.6 x 0.8 x 0.45",
        "own_values": {"tolerance_pct": "1", "mounting": "surface", "approved_on": "2026-03-12"},
    },
    "CAP-0475": {"reorder_level": "1000", "order_minimum": "2000", "order_multiple": "2000", "size_mm": "2 x 1.25 x 0.85"},
    "SCR-M5": {
        "kept_in": "Line side, bin 14",
        "buying_unit": "hundred",
        "reorder_level": "1500",
        "order_multiple": "100",
        "material": "stainless steel",
    },
    "LNS-155": {
        "kept_in": "Main store, rack 5",
        "reorder_level": "60",
        "order_minimum": "50",
        "size_mm": "155 x 155 x 98",
        "material": "polycarbonate, clear",
    },
    "CST-155": {
        "kept_in": "Yard",
        "reorder_level": "40",
        "order_minimum": "25",
        "size_mm": "190 x 190 x 74",
        "material": "aluminium, cast",
    },
    "HL-155": {"size_mm": "190 x 190 x 240", "second_description": "Marine lantern for harbour entrances", "sold": True},
    "HL155-20": {"sold": True, "second_description": "Sold as a spare, too"},
}


#: kg for one stock unit; what is turned, stamped or machined states what is left of it, and stands so.
MASSES = {
    "LNS-155": "0.31", "CST-155": "1.9", "ORG-150": "0.018", "PCB-1021": "0.041", "EMT-4700": "0.0008", "DRV-0310": "0.0011",
    "RES-0472": "0.000002", "RES-0151": "0.000005", "CAP-0475": "0.000016", "CAP-0104": "0.000005", "SCR-M5": "0.0047",
    "WSH-M5": "0.0005", "RSN-20": "1", "HRD-20": "1", "FIL-07": "1", "PNL-12": "1.35", "BAT-07": "2.1", "GLD-20": "0.032",
    "LBL-0031": "0.02", "CMP-0455": "0.0011", "GRS-02": "0.001", "CMP-0417": "0.001", "FLS-01": "0.045", "SYN-01": "0.06",
    "HL155-11": "0.26", "HL155-22": "0.19", "HL155-30": "1.7", "GSK-155": "0.022", "PLY-09": "5.4", "BTN-30": "0.43",
}  # fmt: skip


#: Approved manufacturers' numbers, the first choice first; all invented.
MAKERS: dict[str, list[tuple[str, str, str]]] = {
    "RES-0472": [("Norwick Passive", "NR0603-4K7-F", "0603"), ("Tarn Components", "TC-1608-472", "0603")],
    "CAP-0475": [("Norwick Passive", "NC0805-475-25", "0805"), ("Elder & Finch", "EF2012X475", "0805")],
    "EMT-4700": [("Brightwater Optics", "BW-3W-47", "3535"), ("Tarn Components", "TL3535-W", "3535")],
    "DRV-0310": [("Holmfirth Semiconductor", "HS0310-A", "SO-8")],
    "MCU-0808": [("Holmfirth Semiconductor", "HS8-32", "QFP-32")],
}


#: On hand at the start of three months; what was received and issued since follows from it.
STOCK = {
    "LNS-155": 140, "CST-155": 90, "EMT-4700": 4200, "DRV-0310": 610, "RES-0472": 9000, "CAP-0475": 5200, "SCR-M5": 4000, "WSH-M5": 4000,
    "PCB-1021": 260, "FLS-01": 180, "GLD-20": 240, "LBL-0031": 300, "BAR-AL65": 27, "CMP-0417": 900, "RSN-20": 64, "HRD-20": 22,
    "HL-155": 21, "HL155-21": 70, "HL155-30": 28, "SC-40": 7,
}  # fmt: skip


#: What is still to come: order, part, quantity, days from now.
OPEN_ORDERS = [
    ("PO-2201", "BAR-AL65", "40", 14),
    ("PO-2201", "SHT-AL3", "12", 14),
    ("PO-2204", "PCB-1021", "400", 25),
    ("PO-2207", "CST-155", "60", 38),
    ("PO-2208", "LNS-155", "120", 21),
    ("WO-4107", "HL-155", "50", 30),
    ("WO-4109", "SC-40", "20", 33),
]


#: The inputs of the standards in force, where they were others than they are now, and what is proposed for the next ones.
FIRST_ROUND = [
    ("part", "BAR-AL65", "unit_cost", "39.80"),
    ("part", "SHT-AL3", "unit_cost", "36.90"),
    ("part", "CST-155", "unit_cost", "11.40"),
    ("part", "PCB-1021", "unit_cost", "4.10"),
    ("part", "HL-155", "costing_lot", "40"),
    ("work_center", "TURN", "labor_rate", "35"),
    ("work_center", "BENCH", "labor_rate", "31"),
]


NEXT_ROUND = [("work_center", "PLACE", "machine_rate", "69"), ("part", "EMT-4700", "unit_cost", "1.12")]


#: Parts that are not active.
LIFECYCLES = {"DRV-0310": "last_buy", "TOR-M5": "draft"}


#: What a designer writes, and what the store has: number or description, our part, a note.
SUBSTITUTES = [
    ("FLS-01", "SYN-01", "while plain flashers are not to be had"),
    ("Gasket sheet, 3 mm", "SHT-AL3", "trial of a metal gasket"),
    ("screw, any M5", "SCR-M5", ""),
    ("board, 9 mm", "PLY-09", ""),
]
