"""Record a move of stock: what is on hand is the sum of all moves, and no move is ever changed."""

from decimal import Decimal

from accounts.access import require
from definition.models.parts import Part, StockMove
from django.db import transaction
from django.db.models import Sum
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.basics.kinds import PART_KIND
from tally_core.stated.reading import RecordReader

from verbs.parts.post_stock import StockPost, post_stock

__all__ = ["move_stock", "on_hand"]


def on_hand(part: Part) -> Decimal:
    """What is on hand of a part, in its stock unit."""
    return part.moves.aggregate(total=Sum("quantity"))["total"] or Decimal(0)


def move_stock(user, part_number: str, quantity: str, reason: str) -> StockMove:
    """Add to or take from stock, in the part's stock unit.

    Raises ProblemsError naming the field: no number, nought, more than is there, a fraction of what is counted whole, no
    reason, a part that is not stocked. Raises Refused.
    """
    require(user, "stock")
    reader = RecordReader()
    amount = reader.decimal(quantity, "quantity")
    problems = list(reader.problems)
    if amount is not None and (amount == 0 or abs(amount) >= Decimal("1e12") or int(amount.normalize().as_tuple().exponent) < -9):
        problems.append(Problem("quantity", "a move has a quantity other than 0, of at most nine decimals"))
    if not reason.strip() or "\x00" in reason:
        problems.append(Problem("reason", "say in a word what moved it: received, issued, counted"))
    with transaction.atomic():
        part = Part.objects.select_for_update(no_key=True).filter(number=part_number).first()
        if part is None:
            raise MissingError(f"Part {part_number} is not known.")
        if not PART_KIND[part.kind].stocked:
            problems.append(Problem("part", f"{part.number} is a {part.kind} and is never stocked"))
        elif amount is not None and part.whole_only and amount != amount.to_integral_value():
            problems.append(Problem("quantity", f"{part.number} is counted in whole units"))
        if problems or amount is None:
            raise ProblemsError(problems)
        return post_stock(str(user), [StockPost(part.pk, amount, reason.strip(), place="quantity")])[0]
