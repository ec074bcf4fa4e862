"""Makers' numbers: the same after folding, and nearly the same (P1)."""

import re
import unicodedata
from collections import defaultdict
from collections.abc import Collection, Iterable

__all__ = ["ALIKE", "DIGIT", "LETTER", "SUFFIX", "asked_keys", "fold", "kept_keys", "learn_suffixes", "near_way"]

#: In which way two numbers are nearly the same, the surest first: another suffix; characters that look alike or stand in the wrong order;
#: a letter too many, missing or for another; a digit typed twice or left out, which may as well be another value.
SUFFIX, ALIKE, LETTER, DIGIT = range(4)

#: How much of a number a suffix for packing or plating may be that nobody has agreed to yet; how much one may be at all; and how long the
#: rest has to be.
_MOST_SUFFIX, _LONGEST_SUFFIX, _SHORTEST = 4, 8, 6
_LOOK_ALIKE = {"O0", "0O", "I1", "1I", "L1", "1L", "S5", "5S", "B8", "8B", "Z2", "2Z"}
#: What makers put before a suffix and nowhere else (common practice).
_BEFORE_SUFFIX = re.compile(r"(?<=.{6})[#+].*")


def fold(number: str) -> str:
    """A number without case, blanks and punctuation.

    >>> fold("NR 0603-4k7/F"), fold(" nr06034K7F ")
    ('NR06034K7F', 'NR06034K7F')
    """
    plain = unicodedata.normalize("NFKC", number).upper()
    return re.sub(r"[^0-9A-Z+#]+", "", plain)


def near_way(asked: str, ours: str, suffixes: Collection[str] = ()) -> int | None:
    """In which way two folded numbers that are not the same are nearly so; None where they are not.

    Short numbers are never near: there every character tells parts apart. A digit for another is another value.

    Args:
        suffixes: those of the maker that are known from pairs agreed before (:func:`learn_suffixes`).

    >>> near_way("NR06034K7F", "NR06034K7FTR"), near_way("NR06034K7F", "NR06O34K7F"), near_way("NR06034K7F", "NR0603AK7F")
    (0, 1, None)
    >>> near_way("NR06034K7F", "NR06034K8F"), near_way("A12", "A13"), near_way("NR06034K713", "NR06034K77", {"13", "7"})
    (None, None, 0)
    """
    if asked == ours or min(len(asked), len(ours)) < _SHORTEST:
        return None
    if _stems(asked, suffixes) & _stems(ours, suffixes):
        return SUFFIX
    short, long = sorted((asked, ours), key=len)
    if long.startswith(short) and len(long) - len(short) <= _MOST_SUFFIX and not long[len(short) :].isdigit():
        # A suffix of digits alone is a value, unless it is known.
        return SUFFIX
    if len(short) == len(long):
        return _same_length(asked, ours)
    return _one_more(short, long) if len(long) == len(short) + 1 else None


def _stems(number: str, suffixes: Collection[str]) -> set[str]:
    """What a number is without a suffix that is known, or that its maker set apart."""
    plain = _BEFORE_SUFFIX.sub("", number)
    known = (number[: -len(s)] for s in suffixes if number.endswith(s))
    return {number, plain, *(k for k in known if len(k) >= _SHORTEST)}


def _same_length(asked: str, ours: str) -> int | None:
    differ = [(i, a + b) for i, (a, b) in enumerate(zip(asked, ours, strict=True)) if a != b]
    if all(pair in _LOOK_ALIKE for _, pair in differ):
        return ALIKE
    if len(differ) == 2 and differ[1][0] == differ[0][0] + 1 and differ[0][1] == differ[1][1][::-1]:
        return ALIKE
    return LETTER if len(differ) == 1 and differ[0][1].isalpha() else None


def _one_more(short: str, long: str) -> int | None:
    at = next((i for i, (a, b) in enumerate(zip(short, long, strict=False)) if a != b), len(short))
    if short[at:] != long[at + 1 :]:
        return None
    return DIGIT if long[at].isdigit() else LETTER


#: Characters that look alike, as one of them.
_AS_ONE = str.maketrans("OILSBZ", "011582")


def kept_keys(number: str) -> set[str]:
    """Keys under which a folded number of ours is kept, so that what is nearly the same is found by one of its own (:func:`asked_keys`).

    F is the number, D what is left of it without one character, T without the last two to four, S without a suffix that its maker set apart.

    >>> sorted(kept_keys("AB1#TR"))
    ['D:81#TR', 'D:A1#TR', 'D:A8#TR', 'D:A81#R', 'D:A81#T', 'D:A81TR', 'F:A81#TR']
    """
    if len(number) < _SHORTEST:
        return set()
    plain = number.translate(_AS_ONE)
    return {f"F:{plain}", *(f"D:{d}" for d in _without_one(plain)), *(f"T:{t}" for t in _cut_short(plain)), *_set_apart(plain)}


def asked_keys(number: str, suffixes: Collection[str] = ()) -> set[str]:
    """Under which keys the numbers of ours stand that a folded one may nearly be; :func:`near_way` then says whether it is.

    A known suffix on our side is found up to four characters.
    """
    if len(number) < _SHORTEST:
        return set()
    plain = number.translate(_AS_ONE)
    found = {f"F:{plain}", f"D:{plain}", f"T:{plain}", *(f"F:{t}" for t in _cut_short(plain)), *_set_apart(plain)}
    for less in _without_one(plain):
        found |= {f"F:{less}", f"D:{less}"}
    for stem in _stems(number, suffixes) - {number}:
        bare = stem.translate(_AS_ONE)
        found |= {f"F:{bare}", f"D:{bare}", f"T:{bare}", f"S:{bare}"}
    # Where ours has a suffix set apart, the number as it is asked for is its rest.
    return found | {f"S:{plain}"}


def _without_one(number: str) -> set[str]:
    return {number[:i] + number[i + 1 :] for i in range(len(number))}


def _cut_short(number: str) -> set[str]:
    return {number[:-n] for n in range(2, _MOST_SUFFIX + 1) if len(number) - n >= _SHORTEST}


def _set_apart(number: str) -> set[str]:
    stem = _BEFORE_SUFFIX.sub("", number)
    return set() if stem == number else {f"S:{stem}"}


def learn_suffixes(pairs: Iterable[tuple[str, str, str]]) -> dict[str, frozenset[str]]:
    """By maker, folded, the suffixes for packing and plating that numbers of agreed pairs differ in.

    Args:
        pairs: maker, their number, and our number of that maker; the same part by what people decided.

    Where one number is the other and a suffix more, that is one; where both go on after a suffix that is known, the other's is one, too.
    Of digits alone, two pairs have to say so: one may be a value that somebody overlooked.

    >>> learned = learn_suffixes([("Tarn", "TA06034K7-TR", "TA06034K7"), ("Tarn", "TA060310R-T7", "TA060310R-TR")])
    >>> sorted(learned["TARN"])
    ['T7', 'TR']
    """
    told: dict[str, dict[str, set[str]]] = defaultdict(lambda: defaultdict(set))
    waiting: list[tuple[str, str, str]] = []
    for maker, theirs, ours in pairs:
        short, long = sorted((fold(theirs), fold(ours)), key=len)
        more = long[len(short) :]
        if min(len(short), len(long)) < _SHORTEST or short == long:
            continue
        if long.startswith(short) and len(more) <= _LONGEST_SUFFIX:
            told[fold(maker)][more].add(short)
        else:
            waiting.append((fold(maker), short, long))
    for maker, short, long in waiting:
        for one, other in ((short, long), (long, short)):
            for suffix in list(told[maker]):
                stem = one[: -len(suffix)] if one.endswith(suffix) else ""
                if len(stem) >= _SHORTEST and other.startswith(stem) and 0 < len(other) - len(stem) <= _LONGEST_SUFFIX:
                    told[maker][other[len(stem) :]].add(stem)
    found = {m: frozenset(s for s, stems in of.items() if not s.isdigit() or len(stems) > 1) for m, of in told.items()}
    return {maker: suffixes for maker, suffixes in found.items() if suffixes}
