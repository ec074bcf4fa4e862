"""A number as somebody typed it, with a decimal point or a decimal comma."""

import re
from decimal import Decimal, InvalidOperation
from typing import Any

__all__ = ["typed_number"]

_MOST = Decimal("1e12")


def typed_number(text: Any) -> Decimal | None:
    """The number; None for what is none or could be two, is not finite, or is larger than anything that is bought.

    >>> typed_number(" 2,5 "), typed_number("1000"), typed_number("0,925"), typed_number("1,000"), typed_number(""), typed_number("NaN")
    (Decimal('2.5'), Decimal('1000'), Decimal('0.925'), None, None, None)
    """
    plain = str(text if text is not None else "").strip()
    if re.fullmatch(r"[+-]?\d*,\d+", plain) and not re.fullmatch(r"[+-]?[1-9]\d{0,2},\d{3}", plain):
        plain = plain.replace(",", ".")
    try:
        number = Decimal(plain)
    except InvalidOperation:
        return None
    return number if number.is_finite() and abs(number) < _MOST else None
