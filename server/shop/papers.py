"""An order on paper: a card for each operation, a traveller of all, the requisition for the store, labels. Black on white, with codes to scan.

A card's code is the order's number and the operation's; a label's is the part and the order. Both are QR codes (ISO/IEC 18004).
"""

import io
import re
from collections.abc import Iterator
from html import escape

import segno
from definition.models.parts import PartFile
from django.utils.timezone import localtime
from files.store import opened
from formats.apart import picture_for_list
from formats.document import cards_pdf, labels_pdf, picture_html
from formats.flat import Picture
from tally_core.basics.errors import TallyError

from shop.models import Component, OrderOperation, WorkOrder

__all__ = ["SHAPES", "code_svg", "order_paper"]

SHAPES = ("cards", "traveller", "requisition", "labels", "slips")
_MOST_LABELS = 1000


def order_paper(order: WorkOrder, shape: str) -> bytes:
    """The paper as PDF. Raises TallyError for an order that was not released."""
    if order.plan is None:
        raise TallyError(f"{order.number} has not been released yet; its papers come with that.")
    operations = list(order.operations.filter(resource=0).select_related("center"))
    components = list(order.components.select_related("part"))
    if shape == "labels":
        return _labels(order)
    if shape == "slips":
        return _slips(order, operations)
    if shape == "requisition":
        stores = sorted({_store(c)[0] for c in components if not c.byproduct}, key=lambda s: (not s, s))
        pages = [_requisition(order, operations, [c for c in components if _store(c)[0] == store], store) for store in stores or [""]]
        return cards_pdf(f"Requisition {order.number}", pages)
    if shape == "traveller":
        body = [_head(order, order.number, "Traveller", order.number)]
        body += [_operation(order, o, i, len(operations), components, short=True) for i, o in enumerate(operations, 1)]
        return cards_pdf(f"Traveller {order.number}", ["".join(body)])
    return cards_pdf(
        f"Cards {order.number}",
        [
            _head(order, f"{order.number}-{o.sequence}", f"{i} of {len(operations)}", f"{order.number}-{o.sequence}")
            + _operation(order, o, i, len(operations), components, short=False)
            for i, o in enumerate(operations, 1)
        ],
    )


def code_svg(text: str, size_mm: float = 26) -> str:
    """A QR code as SVG, error correction M."""
    buffer = io.BytesIO()
    segno.make(text, error="m", micro=False).save(buffer, kind="svg", xmldecl=False, svgns=True, omitsize=True, border=2)
    return f'<div class="code" style="width:{size_mm}mm;height:{size_mm}mm">{buffer.getvalue().decode()}</div>'


def _short(amount) -> str:
    return f"{amount.normalize():f}"


def _head(order: WorkOrder, code: str, place: str, words: str) -> str:
    wanted = f"wanted {order.wanted:%d %b %Y}" if order.wanted else "as soon as may be"
    sheet = f"sheet {order.sheet.alternate}/{order.sheet.revision}" if order.sheet else ""
    options = f"options {', '.join(order.options)}" if order.options else ""
    facts = ", ".join(x for x in (wanted, sheet, options) if x)
    return (
        f'<header>{code_svg(code)}<div class="place">{escape(place)}</div>'
        f'<p class="pn">{escape(words)}</p><h1>{_short(order.quantity)} {escape(order.part.unit)} of <span class="pn">{escape(order.part.number)}</span></h1>'
        f"<p>{escape(order.part.description)}</p><p>{escape(facts)}</p></header>"
    )


def _operation(order: WorkOrder, o: OrderOperation, place: int, of: int, components: list[Component], short: bool) -> str:
    where = f"outside: {o.supplier}" if o.outside else f"{o.center.code} {o.center.name}" if o.center else ""
    code = code_svg(f"{order.number}-{o.sequence}", 18) if short else ""
    lines = [
        f'<section class="operation">{code}<h2>{o.sequence or ""} {escape(o.name or "Make")}</h2><p class="where">{escape(where)}</p>',
        f"<p>{place} of {of}. {_short(o.planned)} to start.{_times(o)}</p>",
    ]
    taken = [c for c in components if c.operation == o.row]
    if taken:
        lines.append('<table class="takes"><tr><th>take</th><th></th><th class="n">how much</th><th>done</th></tr>')
        lines += [
            f'<tr><td class="pn">{escape(c.part.number)}</td><td>{"comes back: " if c.byproduct else ""}{escape(c.part.description)}{_kept(c)}</td>'
            f'<td class="n">{_short(round(c.required, 4))} {escape(c.part.unit)}</td><td class="tick"><i></i></td></tr>'
            for c in taken
        ]
        lines.append("</table>")
    if o.instructions and not short:
        lines.append(f'<div class="words">{_words(o.instructions)}</div>')
    if not short:
        lines += _shown(o)
        blank = f"<tr>{'<td></td>' * 6}</tr>" * 3
        heads = "".join(f"<th>{word}</th>" for word in ("name", "day", "good", "scrap", "why", "min"))
        lines.append(f'<table class="report"><tr>{heads}</tr>{blank}</table>')
    lines.append("</section>")
    return "".join(lines)


def _store(c: Component) -> tuple[str, str]:
    """The store in which a component is kept, and where in it: what stands behind the first comma."""
    store, _, place = c.part.kept_in.partition(",")
    return store.strip(), place.strip()


def _kept(c: Component) -> str:
    return f"<br><small>kept in {escape(c.part.kept_in)}</small>" if c.part.kept_in else ""


def _times(o: OrderOperation) -> str:
    if o.outside:
        return ""
    return f" Set-up {_short(round(o.setup_minutes, 1))} min, run {_short(round(o.run_minutes, 1))} min."


def _words(text: str) -> str:
    """Instructions line by line; their marks for bold and lists become what they mean."""
    lines = []
    for line in text.splitlines():
        plain = escape(line.strip().lstrip("#").strip())
        if plain:
            plain = re.sub(r"\*\*(.+?)\*\*", r"<b>\1</b>", plain)
            lines.append(f"<p>{'• ' + plain[2:] if plain.startswith('- ') else plain}</p>")
    return "".join(lines)


def _shown(o: OrderOperation) -> Iterator[str]:
    """Pictures in place; any other file by its name and a code of its address within the application."""
    for file in (shown.file for shown in o.shown.select_related("file__file")):
        picture = _picture(file)
        if picture is not None:
            yield f"<figure>{picture_html(picture)}<figcaption>{escape(file.name)}</figcaption></figure>"
        else:
            yield f'<div class="file">{code_svg(f"/api/parts/files/{file.pk}", 18)}<p>{escape(file.name)}</p></div>'


def _picture(file: PartFile) -> Picture | None:
    if not file.name.lower().endswith((".png", ".jpg", ".jpeg", ".webp", ".gif")):
        return None
    try:
        return picture_for_list(file.name, opened(file.file, file.name).read())
    except TallyError:
        return None


def _requisition(order: WorkOrder, operations: list[OrderOperation], components: list[Component], store: str) -> str:
    """What one store hands out, by operation; without a name, what no store is stated for."""
    names = {o.row: f"{o.sequence or ''} {o.name or 'Make'}".strip() for o in operations}
    rows = []
    for row, name in names.items():
        taken = [c for c in components if c.operation == row and not c.byproduct]
        if not taken:
            continue
        rows.append(f'<tr><td colspan="5" class="group">for {escape(name)}</td></tr>')
        for c in taken:
            left = max(c.required - c.issued - c.stood_in, 0 * c.required)
            how = ", ".join(filter(None, (escape(_store(c)[1]), "taken with what is reported" if c.backflush else "")))
            rows.append(
                f'<tr><td class="pn">{escape(c.part.number)}</td><td>{escape(c.part.description)}<br><small>{how}</small></td>'
                f'<td class="n">{_short(round(left, 4))} {escape(c.part.unit)}</td><td class="given"></td><td class="tick"><i></i></td></tr>'
            )
    table = '<table class="takes"><tr><th>part</th><th></th><th class="n">needed</th><th>given</th><th>done</th></tr>'
    return (
        _head(order, order.number, "Requisition", f"{order.number}, from {store}" if store else order.number)
        + table
        + "".join(rows)
        + "</table>"
    )


def _slips(order: WorkOrder, operations: list[OrderOperation]) -> bytes:
    """A slip for everything that was sent to a supplier of work outside, the newest first. Raises TallyError where nothing was."""
    of_row = {o.row: o for o in operations}
    sent = order.postings.filter(kind="sent", quantity__gt=0, entry__reversed_by=None).select_related("entry").order_by("-id")[:50]
    cards = []
    for p in sent:
        o = of_row[p.operation] if p.operation is not None else None
        if o is None:
            continue
        number = p.entry.reason or f"{order.number}-{p.entry_id}"
        cards.append(
            _head(order, f"{order.number}-{o.sequence}", "Slip", number)
            + f'<section class="operation"><h2>{escape(o.supplier)}</h2><p class="where">{o.sequence} {escape(o.name)}</p>'
            f"<p>{_short(p.quantity)} {escape(order.part.unit)} of {escape(order.part.number)}, sent on {localtime(p.entry.at):%d %b %Y} by {escape(p.entry.done_by)}</p>"
            '<table class="report"><tr><th>came back</th><th>day</th><th>good</th><th>scrap</th></tr><tr><td></td><td></td><td></td><td></td></tr></table></section>'
        )
    if not cards:
        raise TallyError(f"Nothing of {order.number} was sent to a supplier.")
    return cards_pdf(f"Slips {order.number}", cards)


def _labels(order: WorkOrder) -> bytes:
    """One for each unit that is counted whole, else one for the lot."""
    count = int(order.quantity) if order.part.whole_only else 1
    if count > _MOST_LABELS:
        raise TallyError(f"{order.number} has more than {_MOST_LABELS:,} units; split it for labels.")
    code = code_svg(f"{order.part.number} {order.number}", 22)
    labels = [
        (
            order.part.number,
            [order.part.description[:48], order.number, f"{i} of {count}" if count > 1 else f"{_short(order.quantity)} {order.part.unit}"],
        )
        for i in range(1, count + 1)
    ]
    return labels_pdf(f"Labels {order.number}", labels, code)
