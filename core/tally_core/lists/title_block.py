"""What a list is for, as the block above its titles or the name of its file says it (common practice)."""

import re
from collections.abc import Sequence

from .cells import Cell, text_of
from .titles import plain

__all__ = ["said_to_be_for"]

_LABELS = {
    "assembly", "assembly number", "assy", "product", "product number", "part number", "part no", "article", "item number", "top assembly",
    "bill of materials for", "bom for", "parts list for", "list for", "drawing", "drawing number", "drawing no", "project", "baugruppe",
    "artikel", "artikelnummer", "produkt", "zeichnung", "zeichnungsnummer", "stückliste für", "ensemble", "article no", "nomenclature de",
    "conjunto", "producto", "lista de",
}  # fmt: skip
_DESCRIBED = {"description", "title", "name", "designation", "bezeichnung", "benennung", "titel", "désignation", "descripción"}


def said_to_be_for(rows: Sequence[Sequence[Cell]], header: int, file_name: str) -> tuple[str, str]:
    """Number and description of what a list is for: from the block above its titles, else the first word of its file's name.

    >>> said_to_be_for([["Assembly:", "KP-10"], ["Title", "Lamp head"], [], ["Part", "Qty"]], 3, "list 4.csv")
    ('KP-10', 'Lamp head')
    >>> said_to_be_for([["Part", "Qty"]], 0, "in/KP-10_rev B.csv")
    ('KP-10', '')
    """
    number, described = "", ""
    for row in rows[: max(header, 0)]:
        filled = [t for c in row if (t := text_of(c).strip())]
        for at, text in enumerate(filled):
            label, colon, behind = text.partition(":")
            value = behind.strip() if colon else ""
            value = value or (filled[at + 1] if at + 1 < len(filled) else "")
            if not value or len(value) > 200:
                continue
            if plain(label) in _LABELS and not number and re.search(r"\d", value):
                number = value[:64]
            elif plain(label) in _DESCRIBED and not described:
                described = value
    if not number:
        stem = file_name.replace("\\", "/").split("/")[-1].rsplit(".", 1)[0]
        number = (re.split(r"[\s_]+", stem.strip())[0] or stem)[:64]
    return number, described
