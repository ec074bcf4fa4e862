"""Part numbers: the running numbers of a class, and numbers by position in a tree."""

import re
from collections.abc import Iterable, Mapping, Sequence

from .definition import PartClass

__all__ = ["format_number", "next_numbers", "numbers_by_position"]


def format_number(part_class: PartClass, count: int) -> str:
    """The part number of a count.

    >>> format_number(PartClass("Screws", "SCR-", 5), 42)
    'SCR-00042'
    """
    return f"{part_class.prefix}{count:0{part_class.digits}d}"


def next_numbers(part_class: PartClass, taken: Iterable[str], count: int) -> list[str]:
    """The next numbers of a class behind the highest taken; gaps are not filled, since a number once used may be on paper.

    Raises ValueError when the class has no scheme or its digits do not suffice.

    >>> next_numbers(PartClass("Screws", "SCR-", 3, start=10, step=10), ["SCR-010", "SCR-035", "OTHER"], 2)
    ['SCR-040', 'SCR-050']
    """
    if not part_class.digits:
        raise ValueError(f"class {part_class.name} has no numbering; state how many digits its numbers have")
    pattern = re.compile(re.escape(part_class.prefix) + r"(\d{1,15})", re.IGNORECASE)
    highest = max((int(m[1]) for number in taken if (m := pattern.fullmatch(number))), default=None)
    at = part_class.start
    if highest is not None and highest >= at:
        at += ((highest - at) // part_class.step + 1) * part_class.step
    numbers = [at + i * part_class.step for i in range(count)]
    if numbers and numbers[-1] >= 10**part_class.digits:
        raise ValueError(f"{part_class.digits} digits end at {10**part_class.digits - 1}; give class {part_class.name} more")
    return [format_number(part_class, n) for n in numbers]


def numbers_by_position(top: int, takes: Mapping[int, Sequence[int]], prefix: str) -> dict[int, str]:
    """A number for everything below a part: its place in the list of its parent, levels parted by dots.

    Args:
        takes: part → the parts on its sheet, in list order.
        prefix: stands before the first level's place.

    A part that stands at several places has the number of the highest, of those of one level the first. The part at the
    top is not in the answer.

    >>> numbers_by_position(1, {1: [2, 3, 2], 2: [4], 3: [4, 5]}, "HL-")
    {2: 'HL-1', 3: 'HL-2', 4: 'HL-1.1', 5: 'HL-2.2'}
    """
    numbers: dict[int, str] = {}
    level: list[tuple[int, str]] = [(top, prefix)]
    seen = {top}
    while level:
        below: list[tuple[int, str]] = []
        for part, before in level:
            for place, child in enumerate(dict.fromkeys(takes.get(part, ())), 1):
                if child in seen:
                    continue
                seen.add(child)
                numbers[child] = f"{before}{place}"
                below.append((child, f"{before}{place}."))
        level = below
    return numbers
