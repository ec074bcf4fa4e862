"""Rules W2 and W3: what came to an operation, what may be reported there, and what is taken with it."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal
from fractions import Fraction

from .expected import ExpectedLine

__all__ = ["Stage", "backflushed", "came", "finished", "first_pass_yield", "received", "scrap_ratio"]

_NONE = Decimal(0)


@dataclass(frozen=True, slots=True)
class Stage:
    """An operation of an order as it stands: what is planned to start, what was reported good and scrapped, and which it follows."""

    planned: Decimal
    good: Decimal = _NONE
    scrapped: Decimal = _NONE
    follows: tuple[int, ...] = ()

    @property
    def reported(self) -> Decimal:
        """Good and scrapped units together."""
        return self.good + self.scrapped


def came(stages: Sequence[Stage], at: int) -> Decimal:
    """Rule W2: the units that came to an operation: the good ones of all it follows; of a first one, those planned to start.

    >>> came([Stage(Decimal(10), Decimal(7), Decimal(1)), Stage(Decimal(10), follows=(0,))], 1)
    Decimal('7')
    """
    before = [stages[i].good for i in stages[at].follows]
    return min(before) if before else stages[at].planned


def received(stages: Sequence[Stage]) -> Decimal:
    """Rule W2: the good units of the last operation; where several are last, those that passed all of them."""
    followed = {i for stage in stages for i in stage.follows}
    last = [stage.good for i, stage in enumerate(stages) if i not in followed]
    return min(last, default=_NONE)


def finished(stages: Sequence[Stage]) -> bool:
    """Whether all that came to every operation was reported, and something was."""
    return bool(stages) and all(s.reported > 0 and s.reported >= came(stages, i) for i, s in enumerate(stages))


def backflushed(line: ExpectedLine, reported: Decimal, issued: Decimal, whole: bool) -> Decimal:
    """Rule W3: what is still to be issued of a line when its operation has reported so many units in all.

    G for the units reported: what its lot takes once goes with the first of them. Never less than nothing; a part counted in whole units is
    issued whole, the part of one in hand counted with the next.
    """
    allowed = line.gross(Fraction(reported))
    due = Decimal(allowed.numerator) / Decimal(allowed.denominator)
    if whole:
        due = (due - Decimal("1e-9")).to_integral_value(ROUND_CEILING)
    return max(round(due, 9) - issued, _NONE)


def scrap_ratio(scrapped: Decimal, produced: Decimal) -> Decimal | None:
    """ISO 22400-2, scrap ratio: scrap quantity over produced quantity; None where nothing was produced.

    >>> scrap_ratio(Decimal(3), Decimal(60))
    Decimal('0.05')
    """
    return scrapped / produced if produced else None


def first_pass_yield(good: Decimal, inspected: Decimal) -> Decimal | None:
    """ISO 22400-2, first pass yield: good parts at first inspection over inspected parts; None where nothing was inspected."""
    return good / inspected if inspected else None
