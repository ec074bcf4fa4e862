"""A document fit to print: titles, facts and tables as PDF."""

import base64
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path

from django.conf import settings
from weasyprint import HTML, default_url_fetcher

from formats.flat import Picture

__all__ = ["Table", "cards_pdf", "labels_pdf", "page_pdf", "pdf", "picture_html"]

_FONTS = {
    "Reading": "atkinson-hyperlegible-next-latin-wght-normal*.woff2",
    "Numbers": "atkinson-hyperlegible-mono-latin-wght-normal*.woff2",
}
_PNG = "data:image/png;base64,"
_STYLE = """
@page { size: A4 landscape; margin: 14mm 12mm 14mm; @bottom-right { content: counter(page) " / " counter(pages); font: 8pt Reading, sans-serif }
        @bottom-left { content: string(title); font: 8pt Reading, sans-serif } }
body { font: 8.5pt/1.3 Reading, sans-serif; color: #11191b; font-variant-numeric: tabular-nums }
h1 { font-size: 15pt; margin: 0 0 2mm; string-set: title content() }
h2 { font-size: 10.5pt; margin: 6mm 0 1.5mm }
p { margin: 0 0 1mm }
table { border-collapse: collapse; width: 100% }
thead { display: table-header-group }
th { text-align: left; font-weight: normal; border-bottom: 0.6pt solid #11191b; padding: 1mm 1.4mm 0.6mm; vertical-align: bottom }
td { border-bottom: 0.3pt solid #c4cccb; padding: 0.7mm 1.4mm; vertical-align: top }
tr { break-inside: avoid }
.n { text-align: right; white-space: nowrap }
.pn { font-family: Numbers, monospace; white-space: nowrap }
.tick { text-align: center; width: 9mm }
.tick i { display: inline-block; width: 3.4mm; height: 3.4mm; border: 0.5pt solid #11191b }
figure { margin: 4mm 0 0; break-inside: avoid }
figcaption { margin-bottom: 1mm }
figure svg { width: 100%; height: auto; max-height: 120mm }
td img { max-width: 26mm; max-height: 20mm; display: block }
"""
_LABELS = """
@page { size: A4; margin: 15.1mm 7.2mm }
body { font: 9pt/1.25 Reading, sans-serif; color: #11191b; margin: 0; font-variant-numeric: tabular-nums }
.label { float: left; box-sizing: border-box; width: 63.5mm; height: 38.1mm; margin-right: 1.5mm; padding: 3.5mm 4mm; overflow: hidden; break-inside: avoid }
.label:nth-child(3n) { margin-right: 0 }
b { font: 600 12pt/1.2 Numbers, monospace }
p { margin: 0.6mm 0 0 }
.code { float: right; width: 22mm; height: 22mm }
.code svg { width: 100%; height: 100%; display: block }
"""
#: For the shop: black on white, readable at arm's length.
_CARDS = """
@page { size: A4; margin: 12mm 14mm 14mm; @bottom-right { content: counter(page) " / " counter(pages); font: 10pt Reading, sans-serif }
        @bottom-left { content: string(title); font: 10pt Reading, sans-serif } }
body { font: 12pt/1.35 Reading, sans-serif; color: #000; margin: 0; font-variant-numeric: tabular-nums }
.card { break-after: page } .card:last-child { break-after: auto }
header { border-bottom: 1.2pt solid #000; padding-bottom: 3mm; margin-bottom: 4mm }
h1 { font-size: 21pt; line-height: 1.2; margin: 1mm 0; string-set: title content() }
h2 { font-size: 19pt; margin: 0 0 1mm }
p { margin: 0 0 1mm }
.code { float: right; margin: 0 0 2mm 4mm } .code svg { width: 100%; height: 100%; display: block }
.place { float: right; font-size: 17pt; font-weight: 700; border: 1.2pt solid #000; padding: 1mm 3mm; clear: none }
.where { font-size: 14pt } .pn { font-family: Numbers, monospace }
.operation { break-inside: avoid; border-bottom: 0.5pt solid #000; padding: 3mm 0; clear: both }
table { border-collapse: collapse; width: 100%; margin: 2mm 0 }
th { text-align: left; font-weight: normal; font-size: 10pt; border-bottom: 0.8pt solid #000; padding: 1mm 2mm 0.5mm 0 }
td { border-bottom: 0.4pt solid #555; padding: 1.4mm 2mm 1.4mm 0; vertical-align: top } tr { break-inside: avoid }
.n { text-align: right; white-space: nowrap } .group { font-weight: 700; padding-top: 4mm }
.tick { text-align: center; width: 12mm } .tick i { display: inline-block; width: 5mm; height: 5mm; border: 0.8pt solid #000 }
.given { width: 30mm; border-left: 0.4pt solid #555; padding-left: 2mm } th:nth-child(4) { padding-left: 2mm } .words { font-size: 14pt; margin: 3mm 0 }
.report td { height: 11mm } .report th { width: 16% }
figure { margin: 3mm 0 } figure img { max-width: 120mm; max-height: 80mm } figcaption { font-size: 10pt }
.file { margin: 2mm 0; overflow: hidden } .file .code { float: left; margin: 0 4mm 0 0 }
small { font-size: 10pt }
"""


@dataclass(frozen=True, slots=True)
class Table:
    """A table: its title, and for each column its heading and kind: text, number (n), part number (pn) or a box to tick (tick)."""

    title: str
    columns: Sequence[tuple[str, str]]
    rows: Sequence[Sequence[str | Picture]]


def _font_faces() -> str:
    found = []
    for family, pattern in _FONTS.items():
        for file in sorted(Path(settings.WEB_DIST).glob(f"assets/{pattern}"))[:1]:
            found.append(f"@font-face {{ font-family: {family}; src: url({file.as_uri()}) }}")
    return "".join(found)


def _fetch(url: str, *args, **kwargs):
    """Only the fonts that ship with the application, and pictures that stand in the document itself; nothing is ever fetched."""
    if not url.startswith((Path(settings.WEB_DIST).as_uri(), _PNG)):
        raise ValueError("nothing is fetched for a document")
    return default_url_fetcher(url, *args, **kwargs)


def _shown(kind: str, cell: str | Picture) -> str:
    if isinstance(cell, Picture):
        return f'<img alt="{escape(cell.name)}" src="{_PNG}{base64.b64encode(cell.png).decode()}">'
    return "<i></i>" if kind == "tick" else escape(cell)


def pdf(title: str, facts: Sequence[str], tables: Sequence[Table], figures: Sequence[tuple[str, str]] = ()) -> bytes:
    """A title, lines of text and tables on A4, headings repeated on every page; then figures, each a caption and an SVG of our own making."""
    parts = [f"<h1>{escape(title)}</h1>", *(f"<p>{escape(fact)}</p>" for fact in facts)]
    for table in tables:
        heads = "".join(f'<th class="{kind}">{escape(name)}</th>' for name, kind in table.columns)
        kinds = [kind for _, kind in table.columns]
        rows = "".join(
            "<tr>" + "".join(f'<td class="{k}">{_shown(k, cell)}</td>' for k, cell in zip(kinds, row, strict=True)) + "</tr>"
            for row in table.rows
        )
        parts.append(f"<h2>{escape(table.title)}</h2><table><thead><tr>{heads}</tr></thead><tbody>{rows}</tbody></table>")
    parts += [f"<figure><figcaption>{escape(words)}</figcaption>{svg}</figure>" for words, svg in figures]
    return _document(title, _STYLE, parts)


def labels_pdf(title: str, labels: Sequence[tuple[str, Sequence[str]]], code: str = "") -> bytes:
    """Labels of 63.5 by 38.1 mm, three beside one another and seven beneath: for each its strong line, and others; ``code``: markup of our own that
    stands on each."""
    boxes = [
        f'<div class="label">{code}<b>{escape(strong)}</b>{"".join(f"<p>{escape(line)}</p>" for line in lines)}</div>'
        for strong, lines in labels
    ]
    return _document(title, _LABELS, boxes)


def cards_pdf(title: str, cards: Sequence[str]) -> bytes:
    """Cards for the shop, each beginning a page, out of markup of our own making."""
    return _document(title, _CARDS, [f'<div class="card">{card}</div>' for card in cards])


def picture_html(picture: Picture) -> str:
    """A picture as it stands in a document."""
    return _shown("", picture)


def page_pdf(title: str, svg: str, width_mm: float, height_mm: float) -> bytes:
    """One page that is an SVG of our own making, at true scale."""
    style = f"@page {{ size: {width_mm}mm {height_mm}mm; margin: 0 }} body {{ margin: 0 }} svg {{ display: block }}"
    return _document(title, style, [svg])


def _document(title: str, style: str, parts: Sequence[str]) -> bytes:
    document = f'<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title><style>{_font_faces()}{style}</style></head><body>{"".join(parts)}</body></html>'
    return HTML(string=document, url_fetcher=_fetch).write_pdf()
