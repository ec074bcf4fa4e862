"""Cells of a table made elsewhere: text, or a number, a flag or a day that the file itself calls one.

What a file calls a number is that number, however its text would look; only text is read by a decimal sign.
"""

import re
from collections.abc import Iterable
from datetime import date
from decimal import Decimal

__all__ = ["Cell", "is_settled", "read_day", "read_number", "reads_two_ways", "text_of", "uses_decimal_comma"]

Cell = str | int | float | bool | date

#: What may stand between groups of three digits, besides the sign that is not the decimal sign (common practice).
_BLANKS = " \u00a0\u2009\u202f'\u2019"


def _written(decimal: str, group: str) -> re.Pattern[str]:
    whole = rf"[0-9]+|[0-9]{{1,3}}(?P<by>[{re.escape(group)}{_BLANKS}])[0-9]{{3}}(?:(?P=by)[0-9]{{3}})*"
    return re.compile(rf"(?:{whole})?(?:{re.escape(decimal)}(?P<part>[0-9]+))?(?:[eE][+-]?[0-9]{{1,3}})?")


_WITH = {True: _written(",", "."), False: _written(".", ",")}


def text_of(cell: Cell) -> str:
    """A cell as text, for columns that hold names: a whole number without decimals, a day as 2026-03-31.

    >>> text_of(1001.0), text_of(2.5), text_of(True), text_of(date(2026, 3, 31)), text_of(" A-1 ")
    ('1001', '2.5', 'yes', '2026-03-31', ' A-1 ')
    """
    match cell:
        case str():
            return cell
        case bool():
            return "yes" if cell else "no"
        case int() | float():
            return f"{_plain(cell):f}"
        case _:
            return cell.isoformat()


def _plain(number: int | float) -> Decimal:
    """A number as its file means it: binary fractions in the fifteen digits that a spreadsheet keeps."""
    exact = Decimal(number) if isinstance(number, int) else Decimal(f"{number:.15g}")
    return exact.normalize() if exact else Decimal(0)


def _body(text: str) -> tuple[str, str]:
    clean = text.strip().replace("\u2212", "-")
    return (clean[0], clean[1:].strip()) if clean[:1] in ("+", "-") else ("", clean)


def _fits(body: str, comma: bool) -> bool:
    return bool(body) and body[0] not in "eE" and _WITH[comma].fullmatch(body) is not None


def reads_two_ways(text: str) -> bool:
    """Whether text is a number with either decimal sign, and not the same one.

    >>> reads_two_ways("1,234"), reads_two_ways("0.125"), reads_two_ways("1,5"), reads_two_ways("12")
    (True, False, False, False)
    """
    body = _body(text)[1]
    # Nobody writes a nought before a group: 0.125 is an eighth.
    return any(sign in body for sign in ",.") and all(_fits(body, c) for c in (True, False)) and body[0] != "0"


def is_settled(cells: Iterable[Cell]) -> bool:
    """Whether some text among the numbers of a list can be read with one decimal sign only, so that it settles the others.

    >>> is_settled(["1,234", "2"]), is_settled(["1,234", "2,5"])
    (False, True)
    """
    return any(isinstance(c, str) and ("," in c or "." in c) and not reads_two_ways(c) for c in cells)


def uses_decimal_comma(cells: Iterable[Cell]) -> bool:
    """Whether the texts of a list are written with a decimal comma: most of those say so that can be read in one way only.

    Where none says anything, a single comma is taken for a decimal comma unless a point stands somewhere, too.

    >>> uses_decimal_comma(["1,5", "2"]), uses_decimal_comma(["1.5", "1,200"]), uses_decimal_comma(["1.234,50", "1,234"])
    (True, False, True)
    """
    bodies = [_body(cell)[1] for cell in cells if isinstance(cell, str)]
    signed = [b for b in bodies if "," in b or "." in b]
    settled = [(_fits(b, True) and not b.startswith("0."), _fits(b, False) and not b.startswith("0,")) for b in signed]
    commas, points = settled.count((True, False)), settled.count((False, True))
    if commas or points:
        return commas > points
    return any("," in b for b in signed if _fits(b, True)) and not any("." in b for b in signed)


def read_number(cell: Cell, comma: bool) -> Decimal:
    """A number as its file states it, or as a sender writes it. Raises ValueError for what is none, or one of the other manner.

    Args:
        comma: whether text has a decimal comma; a cell that is a number is taken as it is.

    >>> read_number("1.234,5", comma=True), read_number("0.25", comma=False), read_number(3.5, comma=True)
    (Decimal('1234.5'), Decimal('0.25'), Decimal('3.5'))
    >>> read_number("3.5", comma=True)
    Traceback (most recent call last):
    ValueError: “3.5” is a number with a decimal point, and this list is read with a decimal comma
    """
    if isinstance(cell, bool | date):
        raise ValueError(f"“{text_of(cell)}” is not a number")
    if isinstance(cell, int | float):
        number = _plain(cell)
    else:
        sign, body = _body(cell)
        shown = cell.strip()[:40]
        if not _fits(body, comma):
            if _fits(body, not comma):
                used, wanted = ("point", "comma") if comma else ("comma", "point")
                raise ValueError(f"“{shown}” is a number with a decimal {used}, and this list is read with a decimal {wanted}")
            raise ValueError(f"“{shown}” is not a number")
        clean = re.sub(f"[{_BLANKS}{'.' if comma else ','}]", "", body).replace(",", ".")
        number = Decimal(sign + clean)
    if not number.is_finite() or abs(number) >= Decimal("1e12") or (number and number.adjusted() < -9):
        raise ValueError(f"“{text_of(cell).strip()[:40]}” is not a usable number")
    return number


def read_day(cell: Cell) -> date:
    """A day: one that the file calls a day, or text like 2027-01-31. Raises ValueError.

    >>> read_day("2027-01-31")
    datetime.date(2027, 1, 31)
    """
    text = text_of(cell).strip()
    return date.fromisoformat(text[:10] if re.fullmatch(r"\d{4}-\d\d-\d\dT[\d:.+-]+", text) else text)
