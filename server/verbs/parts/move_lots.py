"""Which lots, or which units, a move of stock was of: given, or else the oldest first; and new ones where they come in."""

from collections.abc import Mapping, Sequence
from decimal import Decimal

from definition.models.parts import Lot, LotMove, Part, StockMove, Tracing
from django.utils.timezone import localtime
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["Codes", "check_code", "fresh_codes", "move_lots"]

#: Lots or serial numbers, and how much of each.
Codes = tuple[tuple[str, Decimal], ...]
_ONE = Decimal(1)
_MOST_UNITS = 5000


def check_code(code: str) -> str | None:
    """What is wrong with a lot or serial number, in words."""
    if not 0 < len(code) <= 64 or not code.isprintable() or code != code.strip():
        return "a lot or serial number has 1 to 64 characters that can be printed"
    return None


def fresh_codes(part: Part, by: str, origin: str, quantity: Decimal, known: set[str]) -> Codes:
    """Codes for what comes in: a lot is called after its origin; units carry a running number behind it."""
    if by == "lot":
        return ((origin, quantity),)
    if quantity > _MOST_UNITS:
        raise ProblemsError([Problem("", f"at most {_MOST_UNITS:,} units of {part.number} come in at once, since each has a number")])
    found: list[tuple[str, Decimal]] = []
    n = 0
    while len(found) < quantity:
        n += 1
        code = f"{origin}-{n:03}"
        if code not in known:
            found.append((code, _ONE))
    return tuple(found)


def move_lots(moves: Sequence[tuple[StockMove, Codes, str, str]], parts: Mapping[int, Part]) -> None:
    """Within the caller's transaction, its parts held: lots of every move of a part that is traced. A fixed number of queries.

    Args:
        moves: each with the codes that were given for it, what new ones are called after, and the place of problems with it.

    Raises ProblemsError where codes do not add up, are not there, or are there already.
    """
    traced = dict(Tracing.objects.filter(part__in=list(parts)).values_list("part", "by"))
    if not traced:
        return
    lots: dict[tuple[int, str], Lot] = {(x.part_id, x.code): x for x in Lot.objects.filter(part__in=list(traced)).order_by("id")}
    problems: list[Problem] = []
    touched: dict[tuple[int, str], Lot] = {}
    rows: list[tuple[StockMove, Lot, Decimal]] = []
    for move, given, origin, place in moves:
        by = traced.get(move.part_id)
        if by is None or not move.quantity:
            continue
        part, comes = parts[move.part_id], move.quantity > 0
        codes = given
        if not codes and comes:
            known = {code for key, code in lots if key == move.part_id}
            codes = fresh_codes(part, by, origin or f"{localtime(move.made_at):%Y%m%d}", move.quantity, known)
        elif not codes:
            codes = _oldest([x for (key, _), x in lots.items() if key == move.part_id], -move.quantity)
        if sum((q for _, q in codes), Decimal(0)) != abs(move.quantity):
            problems.append(
                Problem(place, f"say for all {abs(move.quantity).normalize():f} {part.unit} of {part.number} which {by} they are of")
            )
            continue
        for code, quantity in codes:
            wrong = check_code(code)
            lot = lots.get((move.part_id, code))
            there = lot.quantity if lot else Decimal(0)
            if wrong is None and by == "serial" and (quantity != _ONE or (comes and there > 0)):
                wrong = (
                    f"{code} of {part.number} is one unit, and there already"
                    if comes and there > 0
                    else f"each serial number of {part.number} is one unit"
                )
            if wrong is None and not comes and quantity > there:
                wrong = f"only {there.normalize():f} {part.unit} of {code} are there"
            if wrong:
                problems.append(Problem(place, wrong))
                continue
            if lot is None:
                lot = lots[move.part_id, code] = Lot(part=part, code=code)
            lot.quantity += quantity if comes else -quantity
            touched[move.part_id, code] = lot
            rows.append((move, lot, quantity if comes else -quantity))
    if problems:
        raise ProblemsError(problems)
    fresh = [lot for lot in touched.values() if lot.pk is None]
    Lot.objects.bulk_create(fresh)
    Lot.objects.bulk_update([lot for lot in touched.values() if lot not in fresh], ["quantity"])
    LotMove.objects.bulk_create([LotMove(move=m, lot=lot, quantity=q) for m, lot, q in rows])


def _oldest(lots: Sequence[Lot], quantity: Decimal) -> Codes:
    """The oldest first, as much of each as is there."""
    found = []
    left = quantity
    for lot in lots:
        taken = min(lot.quantity, left)
        if taken > 0:
            found.append((lot.code, taken))
            left -= taken
    return tuple(found)
