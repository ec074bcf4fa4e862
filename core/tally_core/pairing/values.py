"""Values as texts write them, in base units: SI prefixes, the letter codes of IEC 60062, case sizes, threads.

Everything here looks at one place of a text; which field it is for, and which kind of part, is up to ``describe``.
"""

import re
from decimal import Decimal

__all__ = ["AWG", "BEARINGS", "CASE_OF_METRIC", "MULTIPLES", "TOLERANCE_LETTERS", "case_size", "coded", "decimal_of", "measured"]

#: SI prefixes; ``u`` and ``mu`` stand for micro (common practice).
MULTIPLES: dict[str, Decimal] = {
    "f": Decimal("1e-15"), "p": Decimal("1e-12"), "n": Decimal("1e-9"), "u": Decimal("1e-6"), "µ": Decimal("1e-6"), "μ": Decimal("1e-6"),
    "m": Decimal("1e-3"), "": Decimal(1), "k": Decimal(1000), "K": Decimal(1000), "M": Decimal(10**6), "G": Decimal(10**9),
    "R": Decimal(1), "E": Decimal(1),
}  # fmt: skip
#: Tolerance in percent by its letter (IEC 60062).
TOLERANCE_LETTERS = {"B": "0.1", "C": "0.25", "D": "0.5", "F": "1", "G": "2", "J": "5", "K": "10", "M": "20"}
#: The imperial case size of a metric one, as the published series set them side by side.
CASE_OF_METRIC = {
    "0402": "01005", "0603": "0201", "1005": "0402", "1608": "0603", "2012": "0805", "3216": "1206", "3225": "1210", "4516": "1806",
    "4532": "1812", "5025": "2010", "6332": "2512",
}  # fmt: skip
_IMPERIAL = set(CASE_OF_METRIC.values()) | {"1808", "2220", "2225"}
#: Square metres of a wire by its American gauge: diameter 0.127 mm · 92^((36 − n) / 39) (ASTM B258), rounded to 1 %.
AWG = {n: Decimal(repr(round(3.14159265 / 4 * (0.127e-3 * 92 ** ((36 - n) / 39)) ** 2, 12))) for n in range(4, 41)}


def decimal_of(text: str) -> Decimal:
    """A number with a point or a comma as its decimal sign; a value has no groups of thousands."""
    return Decimal(text.replace(",", "."))


def measured(number: str, prefix: str) -> Decimal:
    """A number with its prefix in the base unit.

    >>> measured("4,7", "µ"), measured("10", "k")
    (Decimal('0.0000047'), Decimal('10000'))
    """
    return _exact(decimal_of(number) * MULTIPLES[prefix])


def _exact(value: Decimal) -> Decimal:
    return Decimal(f"{value.normalize():f}")


_CODED = re.compile(r"(?P<whole>\d{0,4})(?P<letter>[RKMGpnuµμmE])(?P<part>\d{0,3})(?P<tolerance>[BCDFGJKM])?", re.IGNORECASE)


def coded(text: str, capacitance: bool) -> tuple[Decimal, str] | None:
    """A value by IEC 60062, the letter in the place of the decimal sign, and the tolerance in percent behind it, if any.

    >>> coded("4K7", False), coded("R47", False), coded("100RJ", False), coded("4n7", True)
    ((Decimal('4700'), ''), (Decimal('0.47'), ''), (Decimal('100'), '5'), (Decimal('4.7E-9'), ''))
    """
    found = _CODED.fullmatch(text)
    if not found or not (found["whole"] or found["part"]):
        return None
    letter = found["letter"]
    if capacitance:
        # Farads are written with small prefixes only.
        letter = letter.lower() if letter in "pPnNuUµμ" else ""
    else:
        letter = letter if letter in ("m", "M", "G", "R", "E") else letter.upper() if letter in "kr" else letter
        letter = letter if letter in ("R", "E", "K", "M", "G", "m") else ""
    if not letter:
        return None
    value = Decimal(f"{found['whole'] or 0}.{found['part'] or 0}") * MULTIPLES[letter]
    return _exact(value), TOLERANCE_LETTERS.get((found["tolerance"] or "").upper(), "")


def case_size(code: str, metric: bool) -> str | None:
    """A case size of chips in its imperial code, or None for four digits that are none.

    A metric code that is no imperial one is known without being told; 0603 and 0402 are both, and imperial unless said otherwise.

    >>> case_size("1608", False), case_size("0603", False), case_size("0603", True), case_size("1234", False)
    ('0603', '0603', '0201', None)
    """
    if metric:
        return CASE_OF_METRIC.get(code)
    if code in _IMPERIAL:
        return code
    return CASE_OF_METRIC.get(code)


#: Boundary dimensions of deep groove ball bearings in millimetres: bore, outer diameter, width, by their basic designation (ISO 15; from
#: memory).
BEARINGS = {
    "604": (4, 12, 4), "605": (5, 14, 5), "606": (6, 17, 6), "607": (7, 19, 6), "608": (8, 22, 7), "609": (9, 24, 7),
    "623": (3, 10, 4), "624": (4, 13, 5), "625": (5, 16, 5), "626": (6, 19, 6), "627": (7, 22, 7), "628": (8, 24, 8), "629": (9, 26, 8),
    "6000": (10, 26, 8), "6001": (12, 28, 8), "6002": (15, 32, 9), "6003": (17, 35, 10), "6004": (20, 42, 12), "6005": (25, 47, 12),
    "6006": (30, 55, 13), "6007": (35, 62, 14), "6008": (40, 68, 15), "6009": (45, 75, 16), "6010": (50, 80, 16),
    "6200": (10, 30, 9), "6201": (12, 32, 10), "6202": (15, 35, 11), "6203": (17, 40, 12), "6204": (20, 47, 14), "6205": (25, 52, 15),
    "6206": (30, 62, 16), "6207": (35, 72, 17), "6208": (40, 80, 18), "6209": (45, 85, 19), "6210": (50, 90, 20),
    "6300": (10, 35, 11), "6301": (12, 37, 12), "6302": (15, 42, 13), "6303": (17, 47, 14), "6304": (20, 52, 15), "6305": (25, 62, 17),
    "6306": (30, 72, 19), "6307": (35, 80, 21), "6308": (40, 90, 23), "6309": (45, 100, 25), "6310": (50, 110, 27),
    "6800": (10, 19, 5), "6801": (12, 21, 5), "6802": (15, 24, 5), "6803": (17, 26, 5), "6804": (20, 32, 7), "6805": (25, 37, 7), "6806": (30, 42, 7),
    "6900": (10, 22, 6), "6901": (12, 24, 6), "6902": (15, 28, 7), "6903": (17, 30, 7), "6904": (20, 37, 9), "6905": (25, 42, 9), "6906": (30, 47, 9),
}  # fmt: skip
