"""A quote as papers: a workbook that calculates, for us; and a PDF with what the customer should see."""

from datetime import timedelta
from decimal import Decimal
from typing import Any

from definition.firm import firm_lines
from formats.document import Table, pdf
from formats.workbook import Sheet, Workbook

from buying.models import Quote
from buying.quoting import WORDS, prices_of

__all__ = ["quote_pdf", "quote_workbook"]


def quote_workbook(quote: Quote) -> bytes:
    """Overview, parts, quantities and what is uncertain. Costs of parts, markups and sums are formulas: change a price or a markup, and all follows."""
    book = Workbook()
    offered = prices_of(quote)
    names = [n for n in WORDS if any(Decimal(of["elements"].get(n, "0")) for of, _ in offered)]
    overview = book.sheet(
        "Overview",
        [
            "Part",
            "Description",
            "Quantity",
            "Cost",
            "Paid once, spread",
            "Marked up",
            "Over all %",
            "Price of one",
            "Price",
            "Margin %",
            "Paid once, beside",
        ],
    )
    markups = book.sheet("Markups", ["Element", "Markup %"])
    quantities = book.sheet("Quantities", ["Part", "Quantity", "Element", "Cost", "Markup %", "Marked up"])
    parts = book.sheet(
        "Parts", ["For quantity", "Part", "Description", "Taken", "Unit", "Price", "Cost", "Supplier", "Source", "Offered on"]
    )
    once = book.sheet("Paid once", ["What", "Amount", "Spread"])
    doubts = book.sheet("Uncertain", ["For quantity", "What is uncertain"])
    for name in names:
        markups.row([WORDS[name], float(quote.markups.get(name, "0"))])
    for one in quote.once:
        once.row([one["words"], float(one["amount"]), "yes" if one["spread"] else "no"])
    _write_parts(parts, doubts, quote)
    _write_quantities(quantities, parts, markups, names, quote)
    many = len(quote.once)
    for at, (of, price) in enumerate(offered):
        c = overview.cells()
        first, stop = at * len(names), (at + 1) * len(names)
        spread = beside = 0.0
        spread_cell: Any = 0
        beside_cell: Any = 0
        if many:
            spread = float(sum((Decimal(o["amount"]) for o in quote.once if o["spread"]), Decimal(0)))
            beside = float(price.beside)
            which = f'{once.block("Spread", 0, many)},"{{}}",{once.block("Amount", 0, many)}'
            spread_cell = overview.formula(f"=SUMIF({which.format('yes')})", spread)
            beside_cell = overview.formula(f"=SUMIF({which.format('no')})", beside)
        marked = float(sum(price.marked.values(), Decimal(0)))
        overview.row(
            [
                of["part"],
                of["description"],
                float(of["quantity"]),
                overview.formula(f"=SUM({quantities.block('Cost', first, stop)})+{c['Paid once, spread']}", float(price.cost)),
                spread_cell,
                overview.formula(f"=SUM({quantities.block('Marked up', first, stop)})", marked),
                float(quote.overall_percent),
                overview.formula(
                    f"=ROUND(({c['Marked up']}*(1+{c['Over all %']}/100)+{c['Paid once, spread']})/{c['Quantity']},{quote.decimals})",
                    float(price.each),
                ),
                overview.formula(f"={c['Price of one']}*{c['Quantity']}", float(price.price)),
                overview.formula(f"=({c['Price']}-{c['Cost']})/{c['Price']}*100", float(price.margin_percent)) if price.price else None,
                beside_cell,
            ]
        )
    return book.bytes()


def _write_parts(parts: Sheet, doubts: Sheet, quote: Quote) -> None:
    for of in quote.costs:
        quantity = float(of["quantity"])
        for p in of["parts"]:
            c = parts.cells()
            cost = parts.formula(f"={c['Taken']}*{c['Price']}", float(p["cost"]))
            parts.row(
                [
                    quantity,
                    p["part"],
                    p["description"],
                    float(p["quantity"]),
                    p["unit"],
                    float(p["price"]),
                    cost,
                    ", ".join(p["suppliers"]),
                    p["source"],
                    p["offered"],
                ]
            )
        for words in of["uncertain"]:
            doubts.row([quantity, words])


def _write_quantities(quantities: Sheet, parts: Sheet, markups: Sheet, names: list[str], quote: Quote) -> None:
    """Costs by element. Material moves with the parts: what of it lies in losses stays where the roll-up put it."""
    first = 0
    for of in quote.costs:
        stop = first + len(of["parts"])
        bought = sum((Decimal(p["cost"]) for p in of["parts"]), Decimal(0))
        for at, name in enumerate(names):
            c = quantities.cells()
            cost: Any = float(of["elements"].get(name, "0"))
            if name == "material" and of["parts"]:
                rest = float(Decimal(of["elements"]["material"]) - bought)
                cost = quantities.formula(f"=SUM({parts.block('Cost', first, stop)})+{rest!r}", float(of["elements"]["material"]))
            percent = float(quote.markups.get(name, "0"))
            quantities.row(
                [
                    of["part"],
                    float(of["quantity"]),
                    WORDS[name],
                    cost,
                    quantities.formula(f"={markups.cell('Markup %', at)}", percent),
                    quantities.formula(f"={c['Cost']}*(1+{c['Markup %']}/100)", float(of["elements"].get(name, "0")) * (1 + percent / 100)),
                ]
            )
        first = stop


def quote_pdf(quote: Quote) -> bytes:
    """What the customer sees: what is offered at which quantity for which price, what is paid once beside it, until when it holds."""
    day = (quote.sent_at or quote.made_at).date()
    inquiry = quote.inquiry
    facts = [
        ", ".join(firm_lines()),
        f"To {inquiry.customer_id}" if inquiry.customer_id else "",
        f"Your inquiry {inquiry.their_reference}: {inquiry.title}" if inquiry.their_reference else inquiry.title,
        f"{'Draft of ' if quote.state == 'draft' else ''}{day:%d %b %Y}; holds until {day + timedelta(days=quote.valid_days):%d %b %Y}",
        *quote.words.splitlines(),
    ]
    rows = [
        (of["part"], of["description"], of["quantity"], f"{price.each:f}", f"{price.price:,.2f}".replace(",", "\u202f"))
        for of, price in prices_of(quote)
    ]
    head = (("what", "pn"), ("", ""), ("quantity", "n"), (f"each, {quote.currency}", "n"), (f"in all, {quote.currency}", "n"))
    tables = [Table("What we offer", head, rows)]
    beside = [(o["words"], f"{Decimal(o['amount']):,.2f}".replace(",", "\u202f")) for o in quote.once if not o["spread"]]
    if beside:
        tables.append(Table("Paid once", (("", ""), (quote.currency, "n")), beside))
    return pdf(f"Quotation {quote.number}", [f for f in facts if f], tables)
