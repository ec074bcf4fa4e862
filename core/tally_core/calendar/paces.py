"""Stations of one work center that do not work at one pace (rules T1 and T3)."""

import re

from tally_core.basics.errors import TallyError

__all__ = ["parse_paces", "work_together"]

_SHARE = re.compile(r"\d{1,4}(\.\d{1,3})?")


def parse_paces(text: str, stations: int) -> tuple[float, ...]:
    """What each station does of what the work center's times state, out of words like ``100, 100, 80`` in percent.

    All alike where nothing is stated. Raises TallyError, in the user's words, for what is no share above 0, and for more or fewer of
    them than there are stations.

    >>> parse_paces("120, 80", 2), parse_paces("", 3)
    ((1.2, 0.8), (1.0, 1.0, 1.0))
    """
    said = [part.strip().rstrip("%").strip() for part in text.split(",")] if text.strip() else ["100"] * stations
    for part in said:
        if not _SHARE.fullmatch(part) or float(part) == 0:
            raise TallyError(f"“{part[:20]}” is no pace; write a share in percent for each station, like 100, 100, 80")
    if len(said) != stations:
        raise TallyError(f"{len(said)} paces are stated, and there {'is' if stations == 1 else 'are'} {stations} stations")
    return tuple(float(part) / 100 for part in said)


def work_together(paces: tuple[float, ...], used: int) -> float:
    """How many stations at the stated pace the first ``used`` of them come to: they are taken in the order in which they stand.

    >>> work_together((1.2, 0.8, 1.0), 2), work_together((0.5,), 3)
    (2.0, 0.5)
    """
    return sum(paces[:used])
