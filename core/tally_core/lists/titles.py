"""The titles of a list: which row names the columns, what each holds, and which rows belong to the list.

Words for columns are common practice, in English, German, French and Spanish.
"""

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from .cells import Cell, text_of
from .intake import FIELDS, propose_without_header

__all__ = ["ColumnMap", "ListTable", "OWN", "known_words", "own_columns", "plain", "split_title"]

#: Fields of a list that comes in, besides those of :data:`tally_core.lists.intake.FIELDS`, with words that senders use for them.
MORE_FIELDS: dict[str, tuple[str, ...]] = {
    "maker": ("manufacturer", "manufacturer name", "maker", "mfr", "mfg", "mfr name", "mfg name", "brand", "hersteller", "fabricant", "fabricante"),
    "maker_number": (
        "manufacturer part number", "manufacturer part no", "manufacturer part", "manufacturer pn", "manufacturer p/n", "manufacturer number",
        "manufacturers part number", "maker number", "makers number", "mpn", "mfr part number", "mfr part no", "mfr pn", "mfr p/n", "mfr part",
        "mfg part number", "mfg part no", "mfg pn", "mfg p/n", "mfg part", "herstellernummer", "hersteller nr", "hersteller teilenummer",
        "herstellerteilenummer", "hersteller artikelnummer", "référence fabricant", "reference fabricant", "referencia fabricante",
    ),
    "customer_supplied": (
        "customer supplied", "free issue", "consigned", "consignment", "customer furnished", "supplied by customer", "beistellung",
        "beigestellt", "kundenbeistellung", "fourni client", "fourni par le client", "suministrado por cliente",
    ),
    "not_fitted": ("not fitted", "dnp", "dnf", "dni", "do not populate", "do not fit", "do not place", "not populated", "nicht bestückt", "non monté", "no montar"),
    "fitted": ("fitted", "populate", "populated", "mounted", "mount", "bestückt", "bestücken", "monté", "montar"),
    "value": ("value", "values", "part value", "wert", "bauteilwert", "valeur", "valor"),
    "material": ("material", "werkstoff", "matière", "matériau", "raw material"),
    "supplier": ("supplier", "supplier name", "vendor", "vendor name", "lieferant", "fournisseur", "proveedor"),
    "supplier_number": (
        "supplier part number", "supplier part no", "supplier number", "supplier part", "supplier pn", "supplier p/n", "supplier article", "vendor part number",
        "vendor part no", "vendor part", "vendor pn", "vendor number", "lieferantennummer", "lieferanten nr", "lieferanten artikelnummer", "lieferanten teilenummer",
        "référence fournisseur", "reference fournisseur", "referencia proveedor",
    ),
    "link": ("link", "web link", "url", "hyperlink", "datasheet", "data sheet", "datasheet url", "datenblatt", "lien", "enlace", "fiche technique", "hoja de datos"),
    "case": ("case", "case size", "case code", "package", "package size", "footprint", "bauform", "gehäuse", "gehäusebauform", "boîtier", "encapsulado"),
    "lifecycle": ("lifecycle", "life cycle", "lifecycle status", "life cycle status", "part status", "product status", "lebenszyklus", "cycle de vie", "ciclo de vida"),
    "note": ("note", "notes", "remark", "remarks", "comment", "comments", "bemerkung", "bemerkungen", "kommentar", "remarque", "remarques", "observaciones"),
}  # fmt: skip

_FOOTERS = {
    "total", "totals", "sum", "subtotal", "sub total", "grand total", "gesamt", "summe", "zwischensumme", "somme", "suma", "total general",
    "end", "end of list", "ende",
}  # fmt: skip
#: What a number is called beside its maker; alone these words say too little.
_OF_A_MAKER = {
    "type",
    "typ",
    "number",
    "no",
    "nr",
    "code",
    "order code",
    "model",
    "ref",
    "tipo",
    "bestellnummer",
    "bestell nr",
    "référence",
}
_SEPARATORS = re.compile(r"\s*[/|;,&+\n]\s*|\s+[-–—]\s+|\s+and\s+")


def plain(text: str) -> str:
    """A title without case and punctuation, and without what stands in brackets.

    >>> plain("Qty. (pcs)"), plain("Mfr_Part-No.")
    ('qty', 'mfr part no')
    """
    bare = re.sub(r"[(\[].*?[)\]]", " ", text)
    return re.sub(r"[\s_.\-:#*’']+", " ", (bare if bare.strip() else text).casefold()).strip()


_MEANS = {plain(word): name for name, words in (*FIELDS.items(), *MORE_FIELDS.items()) for word in words}
_MOST_WORDS = max(len(words.split()) for words in _MEANS)
#: What is longer is no title; a cell of a file may hold a million characters.
_LONGEST_TITLE = 300


#: Stands before the name of a field that a workspace has of its own, among the fields of a column map.
OWN = "own: "


def own_columns(titles: Sequence[str], taken: Iterable[int], names: Iterable[str]) -> dict[str, tuple[int, int]]:
    """Columns headed by the name of an own field, with or without its unit behind it; none of those that are taken.

    >>> own_columns(["Part", "Finish", "Length (mm)", "Width"], [0], ["finish", "length_mm", "colour"])
    {'own: finish': (1, 0), 'own: length_mm': (2, 0)}
    """
    free = set(range(len(titles))) - set(taken)
    at: dict[str, int] = {}
    for column in sorted(free, reverse=True):
        at[plain(titles[column])] = column
        at[plain(re.sub(r"[()\[\]]", " ", titles[column]))] = column
    return {OWN + name: (at[plain(name)], 0) for name in names if plain(name) in at}


def known_words(title: str) -> str | None:
    """The field a title names: the whole of it, or its beginning up to the end of a word.

    >>> known_words("Qty per assembly"), known_words("Manufacturer part number 1"), known_words("Colour")
    ('quantity', 'maker_number', None)
    """
    words = plain(title).split()[:_MOST_WORDS]
    for length in range(len(words), 0, -1):
        name = _MEANS.get(" ".join(words[:length]))
        if name is not None:
            return name
    return None


def split_title(title: str) -> list[str]:
    """The fields that one column holds by its title, in their order; none unless every piece is known.

    >>> split_title("Manufacturer / MPN"), split_title("P/N"), split_title("Length / Width"), split_title("Hersteller / Typ")
    (['maker', 'maker_number'], ['part'], [], ['maker', 'maker_number'])
    """
    whole = _MEANS.get(plain(title))
    if whole is not None:
        return [whole]
    pieces = [p for p in _SEPARATORS.split(title) if p.strip()]
    names = [known_words(p) for p in pieces]
    if len(pieces) == 2 and "maker" in names and None in names and plain(pieces[names.index(None)]) in _OF_A_MAKER:
        names[names.index(None)] = "maker_number"
    if len(pieces) == 2 and None not in names and names[0] != names[1]:
        return [n for n in names if n is not None]
    found = known_words(title)
    return [found] if found else []


def _texts(row: Sequence[Cell]) -> list[str]:
    return [text_of(cell)[:_LONGEST_TITLE] for cell in row]


def _joined(first: Sequence[Cell], second: Sequence[Cell]) -> list[str]:
    """Two rows of titles as one."""
    a, b = _texts(first), _texts(second)
    width = max(len(a), len(b))
    a, b = a + [""] * (width - len(a)), b + [""] * (width - len(b))
    return [" ".join(filter(None, (x.strip(), y.strip()))) for x, y in zip(a, b, strict=True)]


def _titled(titles: Iterable[str]) -> dict[str, tuple[int, int]]:
    """Field → (column, its place among the fields of that column)."""
    found: dict[str, tuple[int, int]] = {}
    titles = list(titles)
    for column, title in enumerate(titles):
        for place, name in enumerate(split_title(title) if title.strip() else []):
            found.setdefault(name, (column, place))
    if "material" in found and not {"part", "maker_number"} & found.keys():
        # Some call their parts materials: where nothing else is the number, that is it.
        found["part"] = found.pop("material")
    if "reference_designators" in found and "value" not in found and plain(titles[found.get("note", (0, 0))[0]]) == "comment":
        # Lists of boards call the value of a component its comment.
        found["value"] = found.pop("note")
    return found


def _header(rows: Sequence[Sequence[Cell]]) -> tuple[int, dict[str, tuple[int, int]], list[str]]:
    """The index of the last row of titles (−1 where there are none), the columns, and the titles."""
    best: tuple[int, dict[str, tuple[int, int]], list[str]] = (-1, {}, [])
    for index, row in enumerate(rows[:100]):
        if any(isinstance(cell, int | float) and not isinstance(cell, bool) for cell in row):
            continue
        titles = _texts(row)
        found = _titled(titles)
        if len(found) > len(best[1]) and len(found) >= 2:
            best = (index, found, titles)
        after = rows[index + 1] if index + 1 < len(rows) else []
        # A second row of titles only makes the first one clearer, and holds no number and no known part of a row.
        if found and after and not any(re.search(r"\d", t) for t in _texts(after)):
            both = _joined(row, after)
            joined = _titled(both)
            # It adds a title, or every word of it only goes on with the title above: Part / number, Item / no.
            goes_on = any(_texts(after)) and all(
                plain(t) in _MEANS for t, below in zip(both, (*_texts(after), *[""] * len(both)), strict=False) if below.strip()
            )
            if len(joined) >= 2 and (len(joined) > len(best[1]) or (goes_on and len(joined) == len(best[1]) and best[0] == index)):
                best = (index + 1, joined, both)
    return best


@dataclass(frozen=True, slots=True)
class ColumnMap:
    """How a table is read.

    Attributes:
        header: index of the last row of titles, -1 where there are none.
        columns: field → (column, its place among the fields that the column holds).
        commas: field of numbers → whether text in it has a decimal comma.
        titles: what stands above the columns.
    """

    header: int
    columns: dict[str, tuple[int, int]]
    commas: dict[str, bool] = field(default_factory=dict)
    titles: tuple[str, ...] = ()

    @property
    def shape(self) -> str:
        """What a file of the same sender is known by again: the titles of its columns, however they are spelled."""
        return " | ".join(plain(t) for t in self.titles)

    def found_in(self, rows: Sequence[Sequence[Cell]]) -> "ColumnMap | None":
        """The same map for other rows where its titles stand, on whatever row; None where they do not."""
        if not any(plain(t) for t in self.titles):
            return None
        for index, row in enumerate(rows[:100]):
            if _same_titles(_texts(row), self.titles):
                return replace(self, header=index)
            if index and _same_titles(_joined(rows[index - 1], row), self.titles):
                return replace(self, header=index)
        return None


def _same_titles(texts: Sequence[str], titles: Sequence[str]) -> bool:
    a, b = ([plain(t) for t in side] for side in (texts, titles))
    width = max(len(a), len(b))
    return any(a) and a + [""] * (width - len(a)) == b + [""] * (width - len(b))


class ListTable:
    """One table with its columns known: by a map where one is given, else by its titles."""

    def __init__(self, rows: Sequence[Sequence[Cell]], given: ColumnMap | None = None) -> None:
        self.rows = rows
        if given is not None:
            self.header, self.columns = given.header, dict(given.columns)
            self.titles = list(given.titles) or (_texts(rows[given.header]) if 0 <= given.header < len(rows) else [])
        else:
            self.header, self.columns, self.titles = _header(rows)
        if self.header < 0 and given is None:
            by_contents = propose_without_header(rows, ())
            self.columns = {name: (column, 0) for name, column in by_contents.items()} if len(by_contents) > 1 else {}
        shared = Counter(column for column, _ in self.columns.values())
        #: Fields that have a column for themselves.
        self._alone = {name: column for name, (column, _) in self.columns.items() if shared[column] == 1}

    def take(self, more: Mapping[str, tuple[int, int]]) -> None:
        """Further fields, each with a column for itself."""
        self.columns |= more
        self._alone |= {name: column for name, (column, _) in more.items()}

    def cell(self, row: Sequence[Cell], name: str) -> Cell:
        """The cell of a field; of a column that holds two, its piece."""
        at = self._alone.get(name)
        if at is not None:
            return row[at] if at < len(row) else ""
        column, place = self.columns.get(name, (-1, 0))
        if not 0 <= column < len(row):
            return ""
        pieces = _SEPARATORS.split(text_of(row[column]).strip(), maxsplit=1)
        return pieces[place] if place < len(pieces) else ""

    def text(self, row: Sequence[Cell], name: str) -> str:
        cell = self.cell(row, name)
        return cell.strip() if type(cell) is str else text_of(cell)

    def body(self) -> Iterator[tuple[int, Sequence[Cell]]]:
        """The rows of the list itself: no empty ones, no titles that stand again, no totals and no lone remarks beneath."""
        titles = [t.strip() for t in self.titles]
        for number, row in enumerate(self.rows[self.header + 1 :], self.header + 2):
            filled = [cell for cell in row if type(cell) is not str or (cell and not cell.isspace())]
            if not filled or (titles and type(filled[0]) is str and self._stands_again(row, titles)):
                continue
            first = filled[0].strip() if type(filled[0]) is str else ""
            named = any(self.text(row, n) for n in ("part", "maker_number", "reference_designators"))
            # Beneath the table, or between its sections: words of its maker, not parts.
            if (first[:1].isalpha() and plain(first).rstrip(" :") in _FOOTERS) or (
                not named and any(type(cell) is str and plain(cell) in _FOOTERS for cell in filled)
            ):
                continue
            if len(filled) == 1 and len(self.columns) > 1 and (not named or " " in first):
                continue
            if not named and not (self.text(row, "description") and self.text(row, "quantity")):
                continue
            yield number, row

    @staticmethod
    def _stands_again(row: Sequence[Cell], titles: list[str]) -> bool:
        return [c.strip() if type(c) is str else text_of(c) for c in row[: len(titles)]] == titles
