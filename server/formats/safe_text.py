"""Text from users on its way into files that other programs calculate with."""

import re

__all__ = ["as_typed", "inert"]

#: What a spreadsheet takes for the start of a formula; full-width signs are turned into plain ones by some.
_SIGNS = "=+\\-@\uff1d\uff0b\uff0d\uff20"
#: Where a cell may begin: with the text, and behind what another program may take for the end of a cell.
_BEGINS = r"(?:\A|(?<=[;\t|\r\n]))"
#: What is not seen before a sign: blanks, and characters without a width.
_UNSEEN = r"[\s\u00a0\u00ad\u200b-\u200f\u2028\u2029\u2060\ufeff\"]*"
_FORMULA = re.compile(rf"{_BEGINS}({_UNSEEN}[{_SIGNS}])")
_CONTROL = re.compile(r"\A[\t\r\n]")
_DISARMED = re.compile(rf"{_BEGINS}'(?={_UNSEEN}[{_SIGNS}])|\A'(?=[\t\r\n])")


def inert(text: str) -> str:
    """Text that no spreadsheet takes for a formula when it reads a CSV file, by whatever separator: an apostrophe stands before
    what could be one.

    >>> inert("=1+1"), inert("@SUM(A1)"), inert("x;=1+1"), inert("HL-155; 2 - 3")
    ("'=1+1", "'@SUM(A1)", "x;'=1+1", 'HL-155; 2 - 3')
    """
    armed = _FORMULA.sub(r"'\1", text)
    return f"'{armed}" if _CONTROL.match(armed) else armed


def as_typed(text: str) -> str:
    """Text as it was before :func:`inert`, for a list that comes back.

    >>> as_typed(inert("x;=1+1")), as_typed("it's")
    ('x;=1+1', "it's")
    """
    return _DISARMED.sub("", text)
