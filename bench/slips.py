"""Numbers as senders get them wrong, from a generator with a fixed seed: how many pairs are right, and how many are found (P1, P4).

Our numbers are built as makers build them: series, case size, value code by IEC 60062, tolerance letter, and often a suffix for the
packing; so neighbours that differ in one character are other parts. Makers, series and suffixes are invented; values are those of
IEC 60063 (series E24).
"""

import random
from collections import Counter, defaultdict

import eseries
from rapidfuzz.distance import OSA
from tally_core.pairing.numbers import fold, learn_suffixes
from tally_core.pairing.propose import Asked, Ours, Shelf

from bench.measure import report

__all__ = ["slips_found"]

#: Maker → its series, what stands between, and its suffixes for packing and plating.
_MAKERS = {
    "Norwick": ("NRC", "-", ("TR", "T7", "")),
    "Tarn": ("TA", "", ("-13", "-7", "")),
    "Holmer": ("HMR", "/", ("#PBF", "#TRPBF", "")),
    "Lindqvist": ("LQ", "-", ("", "")),
}
_CASES, _TOLERANCES = ("0402", "0603", "0805", "1206"), ("F", "J")
#: Slips of typing.
_TYPED = ("swapped", "look-alike", "doubled", "left out")
_ALIKE = {"O": "0", "0": "O", "I": "1", "1": "I", "S": "5", "5": "S", "B": "8", "8": "B"}


def _code(ohms: float) -> str:
    """The letter code of a resistance (IEC 60062): 4K7, 10R, 1M0.

    >>> _code(4700.0), _code(10.0), _code(1.2e6)
    ('4K7', '10R', '1M2')
    """
    for letter, factor in (("M", 1e6), ("K", 1e3), ("R", 1.0)):
        if ohms >= factor:
            whole, rest = f"{ohms / factor:.2f}".rstrip("0").split(".")
            return f"{whole}{letter}{rest}"
    raise AssertionError(ohms)


def _parts() -> list[Ours]:
    found: list[Ours] = []
    for maker, (series, between, suffixes) in _MAKERS.items():
        for case in _CASES:
            for ohms in eseries.erange(eseries.E24, 10, 1e6):
                for tolerance in _TOLERANCES:
                    number = f"{series}{case}{between}{_code(ohms)}{tolerance}{suffixes[len(found) % len(suffixes)]}"
                    texts = f"Resistor {_plain(ohms)} {'1' if tolerance == 'F' else '5'} % {case}"
                    found.append(Ours(f"P{len(found):05}", texts, [(maker, number, 1)]))
    return found


def _plain(ohms: float) -> str:
    return f"{ohms / 1e6:g} MΩ" if ohms >= 1e6 else f"{ohms / 1e3:g} kΩ" if ohms >= 1e3 else f"{ohms:g} Ω"


def _slip(r: random.Random, maker: str, number: str) -> tuple[str, str]:
    """A number as a sender may write it, and what was done to it."""
    suffixes = [s for s in _MAKERS[maker][2] if s]
    stem = _stem(maker, number)
    kind = r.choice(
        ["written otherwise", "packing left out", "other packing", "revision", "swapped", "look-alike", "doubled", "left out", "as it is"]
    )
    at = r.randrange(2, len(stem) - 1)
    match kind:
        case "written otherwise":
            return r.choice([number.lower(), number.replace("-", " "), number.replace("/", "-"), f"{number[:4]} {number[4:]}"]), kind
        case "packing left out":
            return stem, kind
        case "other packing":
            return (stem + r.choice(suffixes), kind) if suffixes else (number, "as it is")
        case "revision":
            return f"{number} rev {r.choice('ABC')}", kind
        case "swapped" if stem[at] != stem[at + 1]:
            return number[:at] + number[at + 1] + number[at] + number[at + 2 :], kind
        case "look-alike" if stem[at] in _ALIKE:
            return number[:at] + _ALIKE[number[at]] + number[at + 1 :], kind
        case "doubled":
            return number[:at] + number[at] + number[at:], kind
        case "left out":
            return number[:at] + number[at + 1 :], kind
    return number, "as it is"


def _stem(maker: str, number: str) -> str:
    return next((number[: -len(s)] for s in _MAKERS[maker][2] if s and number.endswith(s)), number)


def _doubtful(written: str, meant: str, numbers: list[str]) -> bool:
    own = OSA.distance(written, meant)
    return sum(OSA.distance(written, n, score_cutoff=own) <= own for n in numbers) > 1


def slips_found(lines: int) -> bool:
    """Precision of *certain* and *near*, and how many of the slips that leave no doubt are found; by kind of slip."""
    r = random.Random(11)
    parts = _parts()
    # A dozen pairs of each maker were agreed to before: the stem and another packing of it.
    agreed = []
    for maker, (_, _, suffixes) in _MAKERS.items():
        for part in r.sample([p for p in parts if p.makers[0][0] == maker], 12):
            number = part.makers[0][1]
            stem = _stem(maker, number)
            agreed.append((maker, stem + r.choice(suffixes), number))
    shelf = Shelf(parts, suffixes=learn_suffixes(agreed))
    numbers = [fold(p.makers[0][1]) for p in parts]
    right: Counter[str] = Counter()
    met: Counter[str] = Counter()
    found: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    for _ in range(lines):
        part = r.choice(parts)
        maker, number, _ = part.makers[0]
        written, kind = _slip(r, maker, number)
        told = part.texts if r.random() < 0.75 else ""
        if not told and kind in _TYPED and _doubtful(fold(written), fold(number), numbers):
            # Another number of ours is as near as the one that was meant, and no text says which: nobody can know.
            continue
        proposals = shelf.propose(Asked(maker=maker, maker_number=written, description=told))
        roads = {p.part: p for p in proposals if p.road in ("exact", "near")}
        for p in proposals:
            if p.certain:
                met["certain"] += 1
                right["certain"] += p.part == part.number
        near = [p for p in proposals if p.road == "near"]
        if near:
            met["near"] += 1
            right["near"] += near[0].part == part.number
        found[kind][0] += 1
        found[kind][1] += part.number in roads
    all_, hit = (sum(x[i] for x in found.values()) for i in (0, 1))
    precise, nearly, recall = right["certain"] / met["certain"], right["near"] / met["near"], hit / all_
    words = ", ".join(f"{kind} {hit / count:.0%}" for kind, (count, hit) in sorted(found.items()))
    holds = precise == 1.0 and nearly >= 0.99 and recall >= 0.95
    return report(
        f"{lines:,} numbers with slips against {len(parts):,} parts: found",
        recall,
        "at least 0.95, certain right 1, near right 0.99",
        holds,
        f"certain right {precise:.4f}, near right {nearly:.4f}; {words}",
    )
