"""What the screens and papers of orders show."""

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from definition.firm import firm_lines
from definition.records import plain_decimal
from django.utils.timezone import localdate
from formats.document import Table, pdf
from formats.flat import Column, list_csv
from formats.ubl import UblLine, UblOrder, order_document
from formats.ubl_parts import PartyOf
from partners.models import Partner

from buying.models import OrderLine, PurchaseOrder
from buying.requests import ourselves

__all__ = ["PAPERS", "order_head", "order_lines"]


def order_head(order: PurchaseOrder, lines: Iterable[OrderLine]) -> dict[str, Any]:
    """An order as the list of orders shows it; money in its currency. ``late``: lines that should have come."""
    rows = list(lines)
    goods = sum((line.quantity * line.price for line in rows), Decimal(0))
    days = [line.due_on for line in rows if line.due_on and line.to_come]
    today = localdate()
    return {
        "id": order.pk,
        "number": order.number,
        "supplier": order.supplier_id or "",
        "currency": order.currency,
        "state": order.state,
        "plan": order.plan_id,
        "plan_number": order.plan.number if order.plan else "",
        "freight": plain_decimal(order.freight) or "0",
        "charge": plain_decimal(order.charge) or "0",
        "goods": f"{goods:.6f}",
        "note": order.note,
        "made_by": order.made_by,
        "made_at": order.made_at.isoformat(),
        "placed_by": order.placed_by,
        "placed_at": order.placed_at.isoformat() if order.placed_at else None,
        "cancelled_by": order.cancelled_by,
        "reason": order.reason,
        "version": order.version,
        "lines": len(rows),
        "received": sum(1 for line in rows if not line.to_come),
        "next": min(days).isoformat() if days and order.state == "placed" else None,
        "late": sum(1 for day in days if day < today) if order.state == "placed" else 0,
    }


def order_lines(order: PurchaseOrder) -> list[dict[str, Any]]:
    """The lines of an order with what came of each. Two queries."""
    return [
        {
            "id": line.pk,
            "position": line.position,
            "part": line.part.number,
            "description": line.part.description,
            "maker": line.maker,
            "maker_number": line.maker_number,
            "their_number": line.their_number,
            "unit": line.unit,
            "stock_unit": line.part.unit,
            "stock_each": plain_decimal(line.stock_each) or "1",
            "quantity": plain_decimal(line.quantity) or "0",
            "price": f"{line.price.normalize():f}",
            "due_on": line.due_on.isoformat() if line.due_on else None,
            "received": plain_decimal(line.received) or "0",
            "to_come": plain_decimal(Decimal(line.to_come)) or "0",
            "closed": line.closed,
            "receipts": [
                {"quantity": plain_decimal(r.quantity) or "0", "slip": r.slip, "by": r.received_by, "at": r.received_at.isoformat()}
                for r in line.receipts.all()
            ],
        }
        for line in order.lines.select_related("part").prefetch_related("receipts")
    ]


def _rows(order: PurchaseOrder) -> list[OrderLine]:
    return list(order.lines.select_related("part"))


def _plain(number: Decimal, places: int = 2) -> str:
    return f"{number:,.{places}f}".replace(",", "\u202f")


def _as_pdf(order: PurchaseOrder) -> bytes:
    lines = _rows(order)
    partner = Partner.objects.get(name=order.supplier_id)
    goods = sum((line.quantity * line.price for line in lines), Decimal(0))
    facts = [
        *filter(None, [", ".join(firm_lines())]),
        f"To {partner.name}" + (f", {partner.contact}" if partner.contact else ""),
        f"{'Draft of ' if order.state == 'draft' else ''}{(order.placed_at or order.made_at).date():%d %b %Y}, by {order.placed_by or order.made_by}",
    ]
    if order.state == "cancelled":
        facts.append(f"Cancelled: {order.reason}")
    table = Table(
        "What we order",
        (
            ("", "n"),
            ("our number", "pn"),
            ("what it is", ""),
            ("your number", "pn"),
            ("maker's number", "pn"),
            ("quantity", "n"),
            ("unit", ""),
            (f"each, {order.currency}", "n"),
            (order.currency, "n"),
            ("wanted by", ""),
        ),
        [
            (
                str(line.position),
                line.part.number,
                line.part.description,
                line.their_number,
                " ".join(filter(None, (line.maker, line.maker_number))),
                plain_decimal(line.quantity) or "0",
                line.unit,
                f"{line.price.normalize():f}",
                _plain(line.quantity * line.price),
                f"{line.due_on:%d %b %Y}" if line.due_on else "",
            )
            for line in lines
        ],
    )
    sums = [("Goods", _plain(goods))]
    sums += [(words, _plain(sum_)) for words, sum_ in (("Freight", order.freight), ("Small order charge", order.charge)) if sum_]
    sums.append(("In all", _plain(goods + order.freight + order.charge)))
    return pdf(f"Order {order.number}", facts, [table, Table("What it comes to", (("", ""), (order.currency, "n")), sums)])


def _as_csv(order: PurchaseOrder) -> bytes:
    columns = [
        Column("order"),
        Column("line", number=True),
        Column("part"),
        Column("description"),
        Column("their number"),
        Column("maker"),
        Column("maker's number"),
        Column("quantity", number=True),
        Column("unit"),
        Column("price", number=True),
        Column("currency"),
        Column("due"),
    ]
    rows: list[list[Any]] = [
        [
            order.number,
            line.position,
            line.part.number,
            line.part.description,
            line.their_number,
            line.maker,
            line.maker_number,
            float(line.quantity),
            line.unit,
            float(line.price),
            order.currency,
            line.due_on.isoformat() if line.due_on else "",
        ]
        for line in _rows(order)
    ]
    return list_csv(columns, rows).encode()


def _as_ubl(order: PurchaseOrder) -> bytes:
    partner = Partner.objects.get(name=order.supplier_id)
    lines = [
        UblLine(
            line.part.number,
            line.part.description,
            line.their_number,
            line.maker,
            line.maker_number,
            line.quantity,
            line.unit,
            line.price,
            line.due_on,
        )
        for line in _rows(order)
    ]
    seller = PartyOf(partner.code, partner.name, partner.mail)
    day = (order.placed_at or order.made_at).date()
    buyer = ourselves(order.placed_by or order.made_by)
    return order_document(UblOrder(order.number, day, order.currency, buyer, seller, order.note, order.freight, order.charge, lines))


#: How an order leaves: its ending, its type, and what writes it.
PAPERS = {"pdf": ("application/pdf", _as_pdf), "csv": ("text/csv; charset=utf-8", _as_csv), "xml": ("application/xml", _as_ubl)}
