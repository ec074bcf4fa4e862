"""Makers' numbers: the same after folding, and nearly the same (P1)."""

import re
import unicodedata

from rapidfuzz import fuzz

__all__ = ["fold", "is_near"]

#: How much of a number a suffix for packing or plating may be, and how alike numbers with a slip of typing are, in percent.
_MOST_SUFFIX, _LEAST_ALIKE, _SHORTEST = 4, 90, 6


def fold(number: str) -> str:
    """A number without case, blanks and punctuation.

    >>> fold("NR 0603-4k7/F"), fold(" nr06034K7F ")
    ('NR06034K7F', 'NR06034K7F')
    """
    plain = unicodedata.normalize("NFKC", number).upper()
    return re.sub(r"[^0-9A-Z+#]+", "", plain)


def is_near(asked: str, ours: str) -> bool:
    """Whether two folded numbers that are not the same are nearly so: a short suffix more or less, or one slip of typing.

    Short numbers are never near: there every character tells parts apart.

    >>> is_near("NR06034K7F", "NR06034K7FTR"), is_near("NR06034K7F", "NR06O34K7F"), is_near("A12", "A13")
    (True, True, False)
    >>> is_near("NR06034K7F", "NR06034K8F")
    False
    """
    if asked == ours or min(len(asked), len(ours)) < _SHORTEST:
        return False
    short, long = sorted((asked, ours), key=len)
    if long.startswith(short) and len(long) - len(short) <= _MOST_SUFFIX:
        # A suffix of digits alone is a value, not a packing.
        return not long[len(short) :].isdigit()
    return fuzz.ratio(asked, ours) >= _LEAST_ALIKE and not _another_value(asked, ours)


def _another_value(asked: str, ours: str) -> bool:
    """One digit for another is another value, not a slip: only what looks or sounds alike is taken for one."""
    if len(asked) != len(ours):
        return _digits(asked) != _digits(ours)
    alike = {"O0", "0O", "I1", "1I", "L1", "1L", "S5", "5S", "B8", "8B", "Z2", "2Z"}
    differ = [a + b for a, b in zip(asked, ours, strict=True) if a != b]
    if len(differ) == 2 and differ[0] == differ[1][::-1]:
        # Two characters in the wrong order.
        return False
    return not all(pair in alike or pair.isalpha() for pair in differ)


def _digits(text: str) -> str:
    return re.sub(r"\D", "", text)
