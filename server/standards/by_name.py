"""Amounts that are kept over a list of names, read over the names of today.

A tally keeps the names of the elements and causes over which its rows, and the standards made of them, stand. What was not known then
is nothing; a name that was kept once is never taken out of the program.
"""

from collections.abc import Sequence

__all__ = ["amounts_sql", "in_order", "places_sql"]


def in_order(names: Sequence[str], values: Sequence[int], wanted: Sequence[str]) -> list[int]:
    """Kept amounts in the order that is wanted.

    >>> in_order(["labor", "material"], [3, 5], ["material", "energy", "labor"])
    [5, 0, 3]
    """
    held = dict(zip(names, values, strict=True))
    return [held.get(name, 0) for name in wanted]


def places_sql(column: str, wanted: Sequence[str]) -> str:
    """A table of the place of each name in the lists that tallies kept, by round and tally: once per tally, not per row."""
    places = ", ".join(f"array_position({column}, '{name}') AS p{i}" for i, name in enumerate(wanted))
    return f"(SELECT id AS tally_id, round_id, {places} FROM standards_tally)"


def amounts_sql(array: str, places: str, wanted: Sequence[str]) -> list[str]:
    """For each name the amount in a kept array, by the places of :func:`places_sql` under an alias."""
    return [f"coalesce({array}[{places}.p{i}], 0)" for i in range(len(wanted))]
