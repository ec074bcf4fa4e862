"""The cost list as a workbook that calculates: every figure is a formula over the inputs."""

from typing import Any

import numpy as np
from formats.workbook import Sheet, Workbook
from tally_core.basics.elements import ELEMENT, ELEMENTS, HOURLY, OF_OPERATIONS
from tally_core.basics.kinds import PART_KIND, PART_KINDS, PER_CYCLE, PER_UNIT
from tally_core.basics.units import SYMBOLS
from tally_core.cost.cost import splits_given
from tally_core.structure.structure import Structure

from readings.cost_list import CostList, basis_words, loss_words
from readings.sheet_view import line_vectors

__all__ = ["cost_list_workbook"]

#: Titles of what an hour costs beside labor, and of what operations yield.
_RATES = {name: name.replace("_", " ").capitalize() for x in HOURLY for name in x.factors}
_OF_OPERATIONS = {name: ELEMENT[name].word.capitalize() for name in OF_OPERATIONS}


def cost_list_workbook(listing: CostList) -> bytes:
    """The indented list as a workbook whose quantities and costs are formulas over the inputs that stand in it.

    Six sheets: the list itself, then Basis, Parts, Lines, Operations and Asked for, each part, line and operation once.
    With a job in the basis, its quantity can be changed in the workbook: needs, lots and costs follow.
    """
    book = Workbook()
    tree = book.sheet("Cost list", ["Level", "Item", "Part", "Description", "Kind", "Quantity", "Unit", "Loss", "Net per parent",
                                    "With losses", "Stock unit", "Unit cost", "In one top part", "Cost in one"])  # fmt: skip
    basis = book.sheet("Basis", ["What the figures hold for", ""])
    parts = book.sheet("Parts", ["No.", "Part", "Description", "Kind", "Unit", "Price", "Overhead %", "Given cost", "Markup %", "Costing lot", "Needed",
                                 "Lot", *ELEMENTS, "Unit cost"])  # fmt: skip
    lines = book.sheet("Lines", ["Parent", "Component", "On", "Item", "Part", "Quantity", "Unit", "Stock units in one", "For a batch of",
                                 "Started for one", "Scrap %", "Yield %", "Loss factor", "Fixed loss per lot", "Lot of parent", "Net per unit", "Gross per unit",
                                 "Taken by the job", *ELEMENTS, "Cost"])  # fmt: skip
    work = book.sheet("Operations", ["Part", "Of", "Sequence", "Name", "Where", "Yield %", "Lot", "Started for one", "Started", "Set-up min",
                                     "Run min", "Efficiency %", "Cycle holds", "Times", "Set-up h", "Run h", "Set-up crew", "Crew", "Set-up rate",
                                     "Labor rate", "Piece rate", *_RATES.values(), "Overhead % of labor", "Price outside",
                                     "Minimum charge", *_OF_OPERATIONS.values()])  # fmt: skip
    asked = book.sheet("Asked for", ["No.", "Part", "By", "Item", "Taken by the job"])
    _write_basis(basis, listing)
    _write_operations(work, parts, listing)
    _write_lines(lines, parts, work, listing)
    _write_parts(parts, lines, work, asked, listing)
    _write_asked(asked, lines, listing)
    _write_tree(tree, parts, lines, work, listing)
    return book.bytes()


def _write_basis(basis: Sheet, listing: CostList) -> None:
    for label, value in basis_words(listing):
        basis.row([label, value])


def _write_operations(work: Sheet, parts: Sheet, listing: CostList) -> None:
    s, o = listing.question.structure, listing.loaded.operations
    lots = listing.costs.lots[o.parent]
    costs, leads = listing.costs.work, o.leads()
    for i in range(len(o)):
        lead, part = int(leads[i]), int(o.parent[i])
        title, place = listing.names[i]
        last = s.operations_of(part).stop - 1
        c = work.cells()
        outside = not np.isnan(o.outside_price[i])
        times: Any = 1
        if o.run_basis[i] == PER_UNIT:
            times = work.formula(f"={c['Started']}", costs.cycles[i])
        elif o.run_basis[i] == PER_CYCLE:
            ratio = f"{c['Started']}/{c['Cycle holds']}"
            times = work.formula(f"=ROUNDUP({ratio}-1E-12*MAX(1,{ratio}),0)", costs.cycles[i])
        labor = f"={c['Run h']}*{c['Crew']}*{c['Labor rate']}/{c['Lot']}"
        if not np.isnan(o.piece_rate[i]):
            labor = f"={c['Started']}*{c['Piece rate']}/{c['Lot']}"
        hours = f"({c['Set-up h']}+{c['Run h']})"
        # What works beside an operation starts what that starts.
        first = work.cell("Yield %", lead, sheet=False)
        yields = f"{first}:{work.cell('Yield %', last, sheet=False)}"
        inside: dict[str, Any] = dict.fromkeys(_OF_OPERATIONS, 0)
        if outside:
            inside["subcontract"] = work.formula(
                f"=MAX({c['Started']}*{c['Price outside']},{c['Minimum charge']})/{c['Lot']}", costs.subcontract[i] / lots[i]
            )
        else:
            inside["setup"] = work.formula(f"={c['Set-up h']}*{c['Set-up crew']}*{c['Set-up rate']}/{c['Lot']}", costs.setup[i] / lots[i])
            inside["labor"] = work.formula(labor, costs.labor[i] / lots[i])
            on_labor = f"+({c['Set-up']}+{c['Labor']})*{c['Overhead % of labor']}/100"
            for x in HOURLY:
                rates = "*".join(c[_RATES[name]] for name in x.factors)
                by_hour = f"={hours}*{rates}/{c['Lot']}{on_labor if x.element == 'overhead' else ''}"
                inside[x.element] = work.formula(by_hour, getattr(costs, x.element)[i] / lots[i])
        work.row([
            part + 1, s.parts.numbers[part], int(o.sequence[i]), title, place, o.yield_percent[i],
            work.formula(f"={parts.cell('Lot', part)}", lots[i]),
            work.formula(f"=1/(PRODUCT({yields})/100^{last - lead + 1})", s.starts[i]),
            work.formula(f"={c['Lot']}*{c['Started for one']}", costs.started[i]),
            o.setup_minutes[i], o.run_minutes[i], o.efficiency_percent[i], o.cycle_quantity[i], times,
            work.formula(f"={c['Set-up min']}/60/({c['Efficiency %']}/100)", costs.setup_hours[i]) if not outside else 0,
            work.formula(f"={c['Run min']}/60/({c['Efficiency %']}/100)*{c['Times']}", costs.run_hours[i]) if not outside else 0,
            o.setup_crew[i], o.crew[i], o.setup_labor_rate[i], o.labor_rate[i], o.piece_rate[i], *(getattr(o, name)[i] for name in _RATES),
            o.overhead_percent_of_labor[i], o.outside_price[i], o.outside_minimum[i] if outside else None, *inside.values(),
        ])  # fmt: skip


def _write_lines(lines: Sheet, parts: Sheet, work: Sheet, listing: CostList) -> None:
    s, table, costs = listing.question.structure, listing.loaded.lines, listing.costs
    net, gross, vectors = line_vectors(s, costs)
    for at, line in enumerate(s.line.tolist()):
        parent, child = int(s.parent[at]), int(s.child[at])
        c, back = lines.cells(), bool(s.byproduct[at])
        operation = int(table.operation[line]) if table.operation[line] >= 0 else int(s.first_operation[parent])
        starts: Any = 1
        if operation >= 0 and not table.per_lot[line]:
            starts = lines.formula(f"={work.cell('Started for one', operation)}", s.starts[operation])
        # Scrap and yield stand as they were stated, so that the workbook can be asked about another loss.
        scrap, passed = (np.nan, np.nan) if back else (table.scrap_percent[line], table.yield_percent[line])
        loss: Any = 1
        if not np.isnan(passed):
            loss = lines.formula(f"=100/{c['Yield %']}", 100 / passed)
        elif not np.isnan(scrap):
            loss = lines.formula(f"=1+{c['Scrap %']}/100", 1 + scrap / 100)
        base = f"{c['Quantity']}*{c['Stock units in one']}/" + (c["Lot of parent"] if table.per_lot[line] else c["For a batch of"])
        net_cell: Any = 0 if back else lines.formula(f"={base}", net[at])
        grown = f"={base}*{c['Started for one']}*{c['Loss factor']}"
        if not back:
            grown += f"+{c['Fixed loss per lot']}/{c['Lot of parent']}"
        taken: Any = 0
        if not back and listing.needs is not None:
            made = listing.needs.lot[parent]
            taken = lines.formula(f"=IF({parts.cell('Needed', parent)}>0,{c['Gross per unit']}*{c['Lot of parent']},0)", gross[at] * made)
        cells: list[Any] = []
        for e, name in enumerate(ELEMENTS):
            if s.free[at]:
                cells.append(0)
            elif back:
                unit = parts.cell("Unit cost", child)
                cells.append(lines.formula(f"=-{c['Gross per unit']}*{unit}", vectors[at, e]) if name == "byproduct" else 0)
            else:
                formula = f"={c['Net per unit']}*{parts.cell(name, child)}"
                if name == "scrap":
                    formula += f"+({c['Gross per unit']}-{c['Net per unit']})*{parts.cell('Unit cost', child)}"
                cells.append(lines.formula(formula, vectors[at, e]))
        lines.row([
            parent + 1, child + 1, s.parts.numbers[parent], int(table.item[line]) or None, s.parts.numbers[child], s.quantity[at],
            SYMBOLS[table.unit[line]], s.factor[at], s.parts.batch[parent], starts, scrap, passed, loss,
            0 if back else table.fixed_loss[line] * s.factor[at], lines.formula(f"={parts.cell('Lot', parent)}", costs.lots[parent]),
            net_cell, lines.formula(grown, gross[at]), taken, *cells,
            lines.formula(f"=SUM({c[ELEMENTS[0]]}:{c[ELEMENTS[-1]]})", vectors[at].sum()),
        ])  # fmt: skip


def _by_component(s: Structure) -> np.ndarray:
    """The usages that ask for something, by component: the rows of the sheet Asked for."""
    asking = np.flatnonzero(~s.byproduct)
    return asking[np.argsort(s.child[asking], kind="stable")]


def _write_asked(asked: Sheet, lines: Sheet, listing: CostList) -> None:
    """What each line asks for, by component, so that a need is the sum of one run of cells.

    A conditional sum over all lines would refer to cells that depend on its own result: a loop to every spreadsheet.
    """
    s, needs = listing.question.structure, listing.needs
    if needs is None:
        return
    _, gross, _ = line_vectors(s, listing.costs)
    for at in _by_component(s).tolist():
        parent, child = int(s.parent[at]), int(s.child[at])
        taken = gross[at] * needs.lot[parent]
        item = int(listing.loaded.lines.item[s.line[at]]) or None
        asked.row([child + 1, s.parts.numbers[child], s.parts.numbers[parent], item,
                   asked.formula(f"={lines.cell('Taken by the job', at)}", taken)])  # fmt: skip


def _write_parts(parts: Sheet, lines: Sheet, work: Sheet, asked: Sheet, listing: CostList) -> None:
    s, costs, needs = listing.question.structure, listing.costs, listing.needs
    p = s.parts
    components = s.child[_by_component(s)]
    fixed = listing.question.fixed
    standing = set(fixed.rows.tolist()) if fixed is not None else set()
    split = set(np.flatnonzero(splits_given(s, fixed)).tolist())
    for i in range(len(p)):
        c = parts.cells()
        kind, given = PART_KIND[PART_KINDS[p.kind[i]]], not np.isnan(p.given_cost[i])
        need: Any = None
        if needs is not None:
            if i == listing.question.top:
                need = parts.formula("=Basis!$B$3", needs.gross[i])
            else:
                first, stop = (int(np.searchsorted(components, i, side)) for side in ("left", "right"))
                taken = f"=SUM({asked.block('Taken by the job', first, stop)})"
                need = parts.formula(taken, needs.gross[i]) if first < stop else 0
        lot_unset = "1" if np.isnan(p.costing_lot[i]) else c["Costing lot"]
        lot = f"={lot_unset}"
        if needs is not None:
            whole = p.whole_only[i] and kind.itself
            rounded = f"ROUNDUP({c['Needed']}-1E-12*MAX(1,{c['Needed']}),0)" if whole else c["Needed"]
            lot = f"=IF({c['Needed']}>0,{rounded},{lot_unset})"
        cells: list[Any] = []
        used, steps = s.usages_of(i), s.operations_of(i)
        marked = p.markup_percent[i] if not given and i not in standing else 0.0
        rolled = {
            name: "+".join(
                ([f"SUM({lines.block(name, used.start, used.stop)})"] if used.stop > used.start else [])
                + ([f"SUM({work.block(ELEMENT[name].word.capitalize(), steps.start, steps.stop)})"]
                   if steps.stop > steps.start and ELEMENT[name].of_operations else [])
            )
            for name in ELEMENTS
        }  # fmt: skip
        whole = "+".join(filter(None, rolled.values()))
        for e, name in enumerate(ELEMENTS):
            formula = ""
            if i in standing:
                # At its standard: a figure that was accepted, not one to be made again.
                cells.append(float(costs.unit[i, e]))
                continue
            one = name == (kind.priced_as or "material")
            if i in split and whole:
                alone = c["Given cost"] if one else "0"
                formula = f"=IF({whole}>0,({rolled[name] or 0})*{c['Given cost']}/({whole}),{alone})"
            elif given:
                formula = f"={c['Given cost']}" if one else ""
            elif kind.priced_as:
                if name == kind.priced_as:
                    formula = f"={c['Price']}"
                elif name == "overhead" and kind.bears_overhead:
                    formula = f"={c['Price']}*{c['Overhead %']}/100"
            else:
                formula = f"={rolled[name]}" if rolled[name] else ""
            if name == "other" and marked:
                # The markup is over all elements, this one without it among them.
                own = formula.removeprefix("=") or "0"
                others = ",".join(c[other] for other in ELEMENTS if other != "other")
                formula = f"={own}+({own}+SUM({others}))*{c['Markup %']}/100"
            cells.append(parts.formula(formula, costs.unit[i, e]) if formula else 0)
        parts.row([
            i + 1, p.numbers[i], listing.descriptions[i], PART_KINDS[p.kind[i]], SYMBOLS[p.unit[i]], p.unit_cost[i], p.overhead_percent[i],
            p.given_cost[i], marked or None, p.costing_lot[i], need, parts.formula(lot, costs.lots[i]), *cells,
            parts.formula(f"=SUM({c[ELEMENTS[0]]}:{c[ELEMENTS[-1]]})", costs.unit[i].sum()),
        ])  # fmt: skip


def _write_tree(tree: Sheet, parts: Sheet, lines: Sheet, work: Sheet, listing: CostList) -> None:
    s, table, costs = listing.question.structure, listing.loaded.lines, listing.costs
    net, gross, vectors = line_vectors(s, costs)
    usage = {line: at for at, line in enumerate(s.line.tolist())}
    worked = costs.work.whole() / costs.lots[s.operations.parent]
    share = [1.0] * len(listing.rows)
    for index, row in enumerate(listing.rows):
        part, c = row.part, tree.cells()
        name, described = s.parts.numbers[part], listing.descriptions[part]
        stock = SYMBOLS[s.parts.unit[part]]
        unit_cost = tree.formula(f"={parts.cell('Unit cost', part)}", costs.unit[part].sum())
        above = tree.cell("In one top part", row.above) if row.above >= 0 else "1"
        held = share[row.above] if row.above >= 0 else 1.0
        if row.operation >= 0:
            title, place = listing.names[row.operation]
            block = f"{work.cell('Set-up', row.operation)}:{work.cell('Subcontract', row.operation, sheet=False)}"
            tree.row([row.level, int(s.operations.sequence[row.operation]), place, title, "operation", *[None] * 8,
                      tree.formula(f"={above}*SUM({block})", held * worked[row.operation])], indent=row.level)  # fmt: skip
        elif row.line < 0:
            tree.row([0, None, name, described, PART_KINDS[s.parts.kind[part]], 1, stock, None, 1, 1, stock, unit_cost, 1,
                      tree.formula(f"={c['Unit cost']}", costs.unit[part].sum())], indent=0, strong=True)  # fmt: skip
        else:
            item = int(table.item[row.line]) or None
            at = usage.get(row.line)
            if table.child[row.line] < 0:
                tree.row([row.level, item, None, listing.texts.get(row.line, ""), "text"], indent=row.level)
                continue
            if at is None:
                word = "not fitted" if table.not_fitted[row.line] else "as needed"
                tree.row(
                    [row.level, item, name, described, word, table.quantity[row.line], SYMBOLS[table.unit[row.line]]], indent=row.level
                )
                continue
            share[index] = held * net[at]
            kind = "by-product" if s.byproduct[at] else PART_KINDS[s.parts.kind[part]]
            tree.row([
                row.level, item, name, described, kind, tree.formula(f"={lines.cell('Quantity', at)}", s.quantity[at]),
                SYMBOLS[table.unit[row.line]], loss_words(listing, row.line) or None,
                tree.formula(f"={lines.cell('Net per unit', at)}", net[at]), tree.formula(f"={lines.cell('Gross per unit', at)}", gross[at]),
                stock, unit_cost, tree.formula(f"={above}*{c['Net per parent']}", share[index]),
                tree.formula(f"={above}*{lines.cell('Cost', at)}", held * vectors[at].sum()),
            ], indent=row.level)  # fmt: skip
