"""A round as a file: a workbook that calculates, CSV, and PDF to print."""

from typing import Any

from formats.document import Table, pdf
from formats.flat import Column, list_csv
from formats.workbook import Workbook
from standards.models import Round
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.cost.causes import CAUSES

from rounds.reads import proposal_page, round_head, rows_page

__all__ = ["MOST_PRINTED", "round_csv", "round_pdf", "round_workbook"]

#: A document of more rows than this is nothing anybody prints.
MOST_PRINTED = 2_000
_MOST_ROWS = 300_000


def _rows(the_round: Round, limit: int = _MOST_ROWS) -> list[dict[str, Any]]:
    found = rows_page(the_round, "stock", "", "", False, 0, limit)
    if not found["items"]:
        raise TallyError(f"{the_round.name} has not been tallied yet.")
    return found["items"]


def round_workbook(the_round: Round) -> bytes:
    """Parts with old and new by element, what moves and why, all of it live; what is proposed beside it."""
    rows, book = _rows(the_round), Workbook()
    elements = [name.capitalize() for name in ELEMENTS]
    about = book.sheet("Round", ["What", "Is"])
    parts = book.sheet(
        "Parts",
        [
            "Part",
            "Description",
            "Class",
            "Kind",
            "Unit",
            "Costing lot",
            *(f"Old {e}" for e in elements),
            "Old",
            *(f"New {e}" for e in elements),
            "New",
            "Moves by",
            "Moves %",
            *(f"By {c}" for c in CAUSES),
            "By all causes",
            "On hand",
            "Moves stock",
            "On order",
            "Moves orders",
        ],
    )
    for row in rows:
        c = parts.cells()
        move = row["after"] - row["before"]
        parts.row(
            [
                row["number"],
                row["description"],
                row["part_class"],
                row["kind"],
                row["stock_unit"],
                row["lot"],
                *row["before_elements"].values(),
                parts.formula(f"=SUM({c[f'Old {elements[0]}']}:{c[f'Old {elements[-1]}']})", row["before"]),
                *row["elements"].values(),
                parts.formula(f"=SUM({c[f'New {elements[0]}']}:{c[f'New {elements[-1]}']})", row["after"]),
                parts.formula(f"={c['New']}-{c['Old']}", move),
                parts.formula(f"=IF({c['Old']}=0,0,{c['Moves by']}/{c['Old']}*100)", move / row["before"] * 100 if row["before"] else 0),
                *row["causes"].values(),
                parts.formula(f"=SUM({c[f'By {CAUSES[0]}']}:{c[f'By {CAUSES[-1]}']})", sum(row["causes"].values())),
                row["on_hand"],
                parts.formula(f"={c['On hand']}*{c['Moves by']}", row["stock_moved"]),
                row["open"],
                parts.formula(f"={c['On order']}*{c['Moves by']}", row["orders_moved"]),
            ]
        )
    head = round_head(the_round)
    for words, value in _facts(head):
        about.row([words, value])
    for words, title, key in (("Moves stock", "Moves stock", "stock_moved"), ("Moves orders", "Moves orders", "orders_moved")):
        about.row([words, about.formula(f"=SUM({parts.block(title, 0, len(rows))})", sum(r[key] for r in rows))])
    proposed = book.sheet("Proposed", ["Of", "Description", "Input", "Now", "Proposed", "From", "Reason", "By", "On"])
    for p in proposal_page(the_round, 0, 1_000_000)["items"]:
        proposed.row(
            [p["name"], p["more"], p["word"], _number(p["now"]), _number(p["value"]), p["source"], p["reason"], p["by"], p["at"][:10]]
        )
    return book.bytes()


def _number(text: str | None) -> float | None:
    return None if text is None else float(text)


def _facts(head: dict[str, Any]) -> list[tuple[str, str]]:
    tally = head["tally"]
    found = [
        ("Round", head["name"]),
        ("State", head["status"] + (f" by {head['closed_by']} on {head['closed_at'][:10]}" if head["closed_at"] else "")),
        ("Holds from", head["first_day"]),
        ("Tallied", f"{tally['at'][:10]} by {tally['by']}"),
        ("Parts", f"{tally['parts']}, of which {tally['moved']} move"),
    ]
    return found + [("Left out", ", ".join(tally["lacking"]))] * bool(tally["lacking"])


def round_csv(the_round: Round) -> str:
    """One row a part: old and new by element, causes, stock and orders."""
    numbers = [f"old {e}" for e in ELEMENTS] + ["old"] + [f"new {e}" for e in ELEMENTS] + ["new", "moves by"]
    numbers += [f"by {c}" for c in CAUSES] + ["on hand", "moves stock", "on order", "moves orders"]
    columns = [Column(t) for t in ("part", "description", "class", "kind", "unit")]
    columns += [Column(t, number=True) for t in ("costing lot", *numbers)]
    return list_csv(
        columns,
        [
            [
                r["number"],
                r["description"],
                r["part_class"],
                r["kind"],
                r["stock_unit"],
                r["lot"],
                *r["before_elements"].values(),
                r["before"],
                *r["elements"].values(),
                r["after"],
                _six(r["after"] - r["before"]),
                *r["causes"].values(),
                r["on_hand"],
                r["stock_moved"],
                r["open"],
                r["orders_moved"],
            ]
            for r in _rows(the_round)
        ],
    )


def _six(value: float) -> float:
    """Six decimals, as costs are kept; a negative zero is a plain one."""
    return round(value, 6) + 0.0


def _money(value: float) -> str:
    """Grouped in threes with at least two decimals; small ones keep what they consist of."""
    return f"{value:,.2f}" if value == 0 or abs(value) >= 0.1 else f"{value:,.4f}"


def _moved(value: float) -> str:
    return "–" if abs(value) < 5e-7 else ("+" if value > 0 else "−") + _money(abs(value))


def round_pdf(the_round: Round) -> bytes:
    """A round as it is looked at: what it proposes, old and new, causes and what it moves."""
    rows = _rows(the_round, MOST_PRINTED + 1)
    if len(rows) > MOST_PRINTED:
        raise TallyError(f"{the_round.name} is over more than {MOST_PRINTED:,} parts, too many to print; take the workbook.")
    head = round_head(the_round)
    tally = head["tally"]
    facts = [f"{words}: {value}" for words, value in _facts(head)]
    facts.append(
        f"Stock on hand {_money(tally['stock_before'])} → {_money(tally['stock_after'])} "
        f"({_moved(tally['stock_after'] - tally['stock_before'])}); open orders {_money(tally['orders_before'])} → "
        f"{_money(tally['orders_after'])} ({_moved(tally['orders_after'] - tally['orders_before'])})"
    )
    moved = [r for r in rows if r["after"] != r["before"]]
    return pdf(
        f"Round {the_round.name}",
        facts,
        [
            Table(
                "What it proposes",
                [("Of", "pn"), ("Description", ""), ("Input", ""), ("Now", "n"), ("Proposed", "n"), ("From", ""), ("By", "")],
                [
                    [p["name"], p["more"], p["word"], p["now"] or "–", p["value"] or "–", p["source"], p["by"]]
                    for p in proposal_page(the_round, 0, MOST_PRINTED)["items"]
                ],
            ),
            Table(
                "What moves",
                [
                    ("Part", "pn"),
                    ("Description", ""),
                    ("Old", "n"),
                    ("New", "n"),
                    ("Moves by", "n"),
                    *((c, "n") for c in CAUSES),
                    ("On hand", "n"),
                    ("Moves stock", "n"),
                    ("Moves orders", "n"),
                ],
                [
                    [
                        r["number"],
                        r["description"],
                        _money(r["before"]),
                        _money(r["after"]),
                        _moved(r["after"] - r["before"]),
                        *(_moved(c) for c in r["causes"].values()),
                        f"{r['on_hand']:g}",
                        _moved(r["stock_moved"]),
                        _moved(r["orders_moved"]),
                    ]
                    for r in moved
                ],
            ),
            Table(
                "By element, new",
                [("Part", "pn"), *((e, "n") for e in ELEMENTS), ("Unit cost", "n")],
                [[r["number"], *("–" if not v else _money(v) for v in r["elements"].values()), _money(r["after"])] for r in rows],
            ),
        ],
    )
