"""Lists whose first row names their columns: orders, finished work, proposed inputs."""

from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal

from .cells import Cell, is_settled, read_day, read_number, reads_two_ways, text_of, uses_decimal_comma

__all__ = ["TitledList", "TitledRow"]


class TitledList:
    """The filled rows beneath a row of titles.

    Args:
        rows: all rows, the titles first.
        titles: column → the titles it may have, in small letters.
        numbers: the columns that are numbers.
        columns: where each column stands, in place of what its title says.
        header: the row of titles; what is above it is passed over.

    >>> listed = TitledList([["Part number", "Price"], ["A-1", "2,50"]], {"part": ("part", "part number"), "price": ("price",)}, ["price"])
    >>> [(row.number, row.text("part"), row.amount("price")) for row in listed]
    [(2, 'A-1', Decimal('2.50'))]
    """

    def __init__(
        self,
        rows: Sequence[Sequence[Cell]],
        titles: Mapping[str, Sequence[str]],
        numbers: Sequence[str],
        columns: Mapping[str, int] | None = None,
        header: int = 0,
    ) -> None:
        first = [text_of(cell).strip().lower() for cell in rows[header]] if rows else []
        found = {name: first.index(w) for name, words in titles.items() for w in words if w in first}
        self.columns = found if columns is None else dict(columns)
        body = enumerate(rows[header + 1 :], header + 2)
        self._body = [(n, row) for n, row in body if any(text_of(c).strip() for c in row)]
        # Column by column: one may come from a screen of another language than the next.
        self.comma: dict[str, bool] = {}
        self.settled: dict[str, bool] = {}
        for name in (n for n in numbers if n in self.columns):
            at = self.columns[name]
            cells = [row[at] for _, row in self._body if at < len(row)]
            self.comma[name], self.settled[name] = uses_decimal_comma(cells), is_settled(cells)

    def __len__(self) -> int:
        return len(self._body)

    def __iter__(self) -> Iterator["TitledRow"]:
        return (TitledRow(self, number, row) for number, row in self._body)


class TitledRow:
    """One row; ``number`` is its place in the list, as a spreadsheet shows it."""

    __slots__ = ("_cells", "_list", "number")

    def __init__(self, of: TitledList, number: int, cells: Sequence[Cell]) -> None:
        self._list, self.number, self._cells = of, number, cells

    def _cell(self, name: str) -> Cell:
        at = self._list.columns.get(name, -1)
        return self._cells[at] if 0 <= at < len(self._cells) else ""

    def text(self, name: str) -> str:
        """The text of a column; empty where there is none."""
        return text_of(self._cell(name)).strip()

    def amount(self, name: str) -> Decimal | None:
        """The number in a column; None where it is empty. Raises ValueError for text that is none, or could be two."""
        cell = self._cell(name)
        if not text_of(cell).strip():
            return None
        # Where no text of the column can be read in one way only, one with a comma could be two numbers.
        if isinstance(cell, str) and "," in cell and not self._list.settled[name] and reads_two_ways(cell):
            shown = cell.strip()[:40]
            raise ValueError(f"“{shown}” could be two numbers; write {shown.replace(',', '')} or {shown.replace(',', '.')}")
        try:
            return read_number(cell, self._list.comma[name])
        except ValueError:
            # Nobody chose a decimal sign for such a list: what can be read in one way only is read so.
            return read_number(cell, not self._list.comma[name])

    def day(self, name: str) -> date | None:
        """The day in a column; None where it is empty. Raises ValueError."""
        cell = self._cell(name)
        return read_day(cell) if text_of(cell).strip() else None
