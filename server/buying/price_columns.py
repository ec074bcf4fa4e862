"""What the columns of a price list hold: by the words of their titles, or as somebody said before for this supplier."""

from collections.abc import Sequence

from partners.models import Partner
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.lists.cells import Cell, text_of
from tally_core.lists.titled import TitledList

from buying.models import PriceList

__all__ = ["COLUMNS", "NUMBERS", "checked_columns", "columns_of", "listed", "titles_of"]

#: The columns of a list, by what their titles may be.
COLUMNS = {
    "part": ("part", "part number", "your number", "our part"),
    "their_number": ("their number", "article", "article number", "order code", "number"),
    "maker": ("maker", "manufacturer"),
    "maker_number": ("maker's number", "mpn", "manufacturer part number", "type"),
    "from": ("from", "quantity", "from quantity", "break"),
    "price": ("price", "unit price", "each"),
    "price_per": ("per", "price per", "price unit"),
    "currency": ("currency",),
    "unit": ("unit",),
    "minimum": ("minimum", "smallest order", "moq"),
    "multiple": ("pack", "packs of", "multiple"),
    "available": ("available", "stock", "there now"),
    "lead_days": ("days", "lead time", "lead days"),
    "valid_from": ("valid from",),
    "valid_to": ("valid to", "valid until", "holds to"),
}
NUMBERS = ("from", "price", "price_per", "minimum", "multiple", "available", "lead_days")
_NAMED = ("part", "their_number", "maker_number")
#: Rows among which the one with the titles is looked for.
_FIRST_ROWS = 40
_WORDS = {word for words in COLUMNS.values() for word in words}


def titles_of(rows: Sequence[Sequence[Cell]]) -> tuple[int, list[str]]:
    """The row that holds the titles, and them: among the first ones that with the most words that are known, else with the most texts."""
    texts = [[" ".join(text_of(c).split()) for c in row] for row in rows[:_FIRST_ROWS]]
    known = [sum(t.lower() in _WORDS for t in row) for row in texts]
    words = [sum(isinstance(c, str) and bool(c.strip()) for c in row) for row in rows[:_FIRST_ROWS]]
    header = max(range(len(texts)), key=lambda i: (known[i], words[i], -i), default=0)
    return header, [t[:200] for t in texts[header]] if texts else []


def columns_of(supplier: Partner, titles: Sequence[str]) -> tuple[dict[str, int], bool]:
    """Where each column stands, and whether somebody said so: for a list of this supplier with the same titles."""
    before = PriceList.objects.filter(supplier=supplier, mapped=True, titles=list(titles)).first()
    if before is not None:
        return dict(before.columns), True
    small = [t.lower() for t in titles]
    return {name: small.index(w) for name, words in COLUMNS.items() for w in words if w in small}, False


def checked_columns(columns: dict[str, int], wide: int) -> dict[str, int]:
    """The same. Raises ProblemsError for a map that makes no sense."""
    problems = [Problem(name, "there is no such column") for name, at in columns.items() if name not in COLUMNS or not 0 <= at < wide]
    if len(set(columns.values())) < len(columns):
        problems.append(Problem("", "a column holds one thing"))
    if not problems and ("price" not in columns or not set(_NAMED) & columns.keys()):
        problems.append(Problem("", _LACKING))
    if problems:
        raise ProblemsError(problems)
    return columns


_LACKING = "the list needs a column price, and one of part, their number or maker's number"


def listed(rows: Sequence[Sequence[Cell]], columns: dict[str, int] | None = None, header: int = 0) -> TitledList:
    """The rows of a list. Raises ProblemsError for one without the columns that are needed."""
    found = TitledList(rows, COLUMNS, NUMBERS, columns, header)
    if "price" not in found.columns or not set(_NAMED) & found.columns.keys():
        raise ProblemsError([Problem("", _LACKING)])
    return found
