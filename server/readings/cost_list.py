"""The indented cost list, as a workbook that still calculates and as CSV."""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from formats.document import Table, pdf
from formats.safe_text import inert
from loading.laid_over import round_of
from loading.loaded import Loaded
from loading.reads import load_question
from tally_core.basics.elements import AT, ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import GIVES_BACK, LINE_KIND, LINE_KINDS, PART_KINDS
from tally_core.basics.rounding import decimal_text
from tally_core.basics.units import SYMBOLS
from tally_core.cost.answers import Basis, Question, tally
from tally_core.cost.cost import Costs
from tally_core.structure.needs import Needs

from readings.sheet_view import line_vectors

__all__ = ["CostList", "cost_list_csv", "cost_list_pdf", "lines_shown", "listed"]

MOST_ROWS = 100_000
#: A document of more rows than this is nothing anybody prints.
MOST_PRINTED = 3_000


@dataclass(slots=True)
class Row:
    """One row of the indented list. ``line`` and ``operation`` are rows of the tables, -1 for none."""

    level: int
    part: int
    line: int
    operation: int
    above: int  # index of the row it stands under, -1 for the top


@dataclass(slots=True)
class CostList:
    """Everything both files are written from."""

    sheet: BuildSheet
    loaded: Loaded
    question: Question
    costs: Costs
    needs: Needs | None
    rows: list[Row]
    descriptions: list[str]
    texts: dict[int, str]  # line row → its text
    names: dict[int, tuple[str, str]]  # operation row → its name, its work center or supplier


def listed(sheet: BuildSheet, basis: Basis, levels: int | None = None) -> CostList:
    """The indented list of a sheet under a basis, down to ``levels`` or to the end; lines that count nothing stay on it (U5).

    Raises TallyError when the basis has no answer, and when the list would be longer than a workbook can carry.
    """
    loaded, question = load_question(sheet.part, basis, sheet)
    costs, needs = tally(question)
    s, lines = question.structure, loaded.lines
    counted, by_parent = lines_shown(loaded, question)
    rows: list[Row] = []
    # Depth first: what a part takes follows it. A row's place is known when it leaves the stack.
    waiting = [Row(0, question.top, -1, -1, -1)]
    while waiting:
        row = waiting.pop()
        here = len(rows)
        rows.append(row)
        if len(rows) + len(waiting) > MOST_ROWS:
            raise TallyError(f"The indented list has more than {MOST_ROWS:,} rows; export a sub-assembly, or the bundle.")
        opens = row.line < 0 or (counted[row.line] and not GIVES_BACK[lines.kind[row.line]])
        if row.operation >= 0 or not opens or row.level == levels:
            continue
        below = [Row(row.level + 1, row.part, -1, o, here) for o in range(*s.operations_of(row.part).indices(len(s.operations)))]
        below += [Row(row.level + 1, int(lines.child[x]), x, -1, here) for x in by_parent.get(row.part, [])]
        waiting += reversed(below)
    keys = loaded.part_ids.tolist()
    described = dict(Part.objects.filter(id__in=keys).values_list("id", "description"))
    texts = {
        bytes(k.bytes): t for k, t in Line.objects.filter(sheet_id__in=loaded.sheet_of.values()).exclude(text="").values_list("id", "text")
    }
    works = {
        bytes(k.bytes): (n, c or f"outside: {supplier}")
        for k, n, c, supplier in Operation.objects.filter(sheet_id__in=loaded.sheet_of.values()).values_list(
            "id", "name", "work_center__code", "supplier"
        )
    }
    return CostList(
        sheet,
        loaded,
        question,
        costs,
        needs,
        rows,
        [described[k] for k in keys],
        {i: texts[k] for i, k in enumerate(loaded.line_ids.tolist()) if k in texts},
        {i: works[k] for i, k in enumerate(loaded.operation_ids.tolist())},
    )


def lines_shown(loaded: Loaded, question: Question) -> tuple[np.ndarray, dict[int, list[int]]]:
    """Which lines count, and for each parent those that a list shows: beside them what is taken as needed, not fitted, or text (U5)."""
    lines, day = loaded.lines, question.basis.as_of.toordinal()
    counted = np.zeros(len(lines), dtype=bool)
    counted[question.structure.line] = True
    silent = (np.isnan(lines.quantity) | lines.not_fitted) & (lines.first_day <= day) & (day < lines.last_day)
    silent &= (lines.option < 0) & ~lines.removes
    by_parent: dict[int, list[int]] = {}
    for line in np.flatnonzero(counted | silent).tolist():
        by_parent.setdefault(int(lines.parent[line]), []).append(line)
    return counted, by_parent


def loss_words(listing: CostList, line: int) -> str:
    lines = listing.loaded.lines
    if not np.isnan(lines.yield_percent[line]):
        return f"yield {lines.yield_percent[line]:g} %"
    return f"{lines.scrap_percent[line]:g} %" if lines.scrap_percent[line] > 0 else ""


_TITLES = (
    "level",
    "item",
    "part",
    "description",
    "kind",
    "quantity",
    "unit",
    "loss",
    "net per parent",
    "gross per parent",
    "stock unit",
    "unit cost",
    "cost in one",
    *ELEMENTS,
)


def _flat(listing: CostList) -> Iterator[list[Any]]:
    """The rows of the indented list under :data:`_TITLES`; costs are those in one unit of the top part."""
    s, lines, costs = listing.question.structure, listing.loaded.lines, listing.costs
    net, gross, vectors = line_vectors(s, costs)
    usage = {line: at for at, line in enumerate(s.line.tolist())}
    lot = costs.lots[s.operations.parent]
    amounts = costs.work.amounts()
    share = [1.0] * len(listing.rows)
    for index, row in enumerate(listing.rows):
        name, described = s.parts.numbers[row.part], listing.descriptions[row.part]
        kind, stock = PART_KINDS[s.parts.kind[row.part]], SYMBOLS[s.parts.unit[row.part]]
        above = share[row.above] if row.above >= 0 else 1.0
        if row.line >= 0:
            at = usage.get(row.line)
            item = str(lines.item[row.line] or "")
            quantity = "" if np.isnan(lines.quantity[row.line]) else f"{lines.quantity[row.line]:.9g}"
            if lines.child[row.line] < 0:
                yield [row.level, item, "", listing.texts.get(row.line, ""), "text"]
                continue
            unit = SYMBOLS[lines.unit[row.line]]
            if at is None:
                why = "not fitted" if lines.not_fitted[row.line] else "as needed"
                yield [row.level, item, name, described, why, quantity, unit]
                continue
            share[index] = above * net[at]
            line_kind = LINE_KIND[LINE_KINDS[lines.kind[row.line]]]
            kind = line_kind.word if line_kind.gives_back else kind
            vector = vectors[at] * above
            yield [
                row.level,
                item,
                name,
                described,
                kind,
                decimal_text(s.quantity[at]),
                unit,
                loss_words(listing, row.line),
                decimal_text(net[at]),
                decimal_text(gross[at]),
                stock,
                decimal_text(costs.unit[row.part].sum()),
                decimal_text(vector.sum()),
                *map(decimal_text, vector),
            ]
        elif row.operation >= 0:
            title, place = listing.names[row.operation]
            vector = np.zeros(len(ELEMENTS))
            for element, amount in amounts.items():
                vector[AT[element]] = amount[row.operation] / lot[row.operation] * above
            yield [
                row.level,
                s.operations.sequence[row.operation],
                place,
                title,
                "operation",
                "",
                "",
                "",
                "",
                "",
                "",
                "",
                decimal_text(vector.sum()),
                *map(decimal_text, vector),
            ]
        else:
            vector = costs.unit[row.part]
            yield [
                row.level,
                "",
                name,
                described,
                kind,
                "1",
                stock,
                "",
                "1",
                "1",
                stock,
                decimal_text(vector.sum()),
                decimal_text(vector.sum()),
                *map(decimal_text, vector),
            ]


def cost_list_csv(listing: CostList) -> str:
    """The indented list as CSV; text from users can become no formula."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(_TITLES)
    for row in _flat(listing):
        writer.writerow([*row[:2], *(inert(cell) for cell in row[2:4]), *row[4:]])
    return out.getvalue()


def cost_list_pdf(listing: CostList) -> bytes:
    """The indented list as PDF to print, each level further in. Raises TallyError for one that nobody would print."""
    if len(listing.rows) > MOST_PRINTED:
        raise TallyError(f"The list has more than {MOST_PRINTED:,} rows, too many to print; take the workbook.")
    s, costs, top = listing.question.structure, listing.costs, listing.question.top
    unit = costs.unit[top]
    facts = [f"{label}: {value}" for label, value in basis_words(listing)]
    facts.append("; ".join(f"{name} {_read(value)}" for name, value in zip(ELEMENTS, unit.tolist(), strict=True) if value))
    rows = []
    for row in _flat(listing):
        cells = [str(cell) for cell in row] + [""] * (len(_TITLES) - len(row))
        level, item, part, described, kind, quantity, unit_of, loss = cells[:8]
        rows.append(
            [
                item,
                "\u2003" * int(level) + part,
                described,
                kind,
                f"{_read(quantity)} {unit_of}" if quantity else "",
                loss,
                _read(cells[11]),
                _read(cells[12]),
            ]
        )
    title = f"{s.parts.numbers[top]} {listing.descriptions[top]}".strip()
    columns = [
        ("Item", "n"),
        ("Part", "pn"),
        ("Description", ""),
        ("Kind", ""),
        ("Quantity", "n"),
        ("Loss", "n"),
        ("Unit cost", "n"),
        ("Cost in one", "n"),
    ]
    return pdf(title, facts, [Table("Cost list", columns, rows)])


def _read(value: str | float) -> str:
    """A figure for reading; nothing stays nothing."""
    if value == "":
        return ""
    number = float(value)
    return f"{number:,.2f}" if number == 0 or abs(number) >= 0.1 else f"{number:,.4f}"


def basis_words(listing: CostList) -> list[tuple[str, Any]]:
    """What the figures hold for, in words."""
    asked = listing.question.basis
    the_round = round_of(asked)
    prices = {"inputs": "inputs as they stand", "standards": "standards, all levels", "level": "standards, one level"}
    found = [
        ("Part", listing.sheet.part.number),
        ("Quantity", float(asked.quantity) if asked.quantity is not None else "costing lots"),
        ("On the day", asked.as_of.isoformat()),
        ("With options", ", ".join(asked.options) or "none"),
        ("Drafts counted", "yes" if asked.drafts else "no"),
        ("Currency", listing.question.currency),
        ("Prices", f"round {the_round.name}" if the_round is not None else prices[asked.prices]),
        ("Sheet", f"{listing.sheet.alternate}, revision {listing.sheet.revision}, {listing.sheet.status}"),
    ]
    return found + [("What if", f"{len(asked.what_if)} inputs tried, kept nowhere")] * bool(asked.what_if)
