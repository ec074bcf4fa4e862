"""The answers of the contract (``docs/arithmetic.md``): a cost and a list of needs, as plain JSON values."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from itertools import combinations

import numpy as np

from ..basics.elements import ELEMENTS
from ..basics.errors import TallyError
from ..basics.kinds import IS_ITSELF
from ..basics.rounding import decimal_text
from ..basics.units import SYMBOLS
from ..stated.definition import Definition
from ..structure.buildable import buildable
from ..structure.needs import Needs, job_needs
from ..structure.structure import Structure, build_structure, require_sheets
from ..structure.tabulate import tabulate
from .cost import Costs, Fixed, job_lots, roll_up, standard_lots

__all__ = ["Basis", "Question", "ask", "buildable_answer", "cost_answer", "known_options", "needs_answer", "tally"]


@dataclass(frozen=True, slots=True)
class Basis:
    """What a figure holds for. ``quantity`` None means standard lots, else the job of so many."""

    as_of: date
    quantity: Decimal | None = None
    options: tuple[str, ...] = ()
    drafts: bool = False
    prices: str = "inputs"  # inputs | standards | level | round:KEY; see docs/arithmetic.md, D3
    what_if: tuple[tuple[str, str, str, str], ...] = ()  # table, key, field, value: tried, never kept

    @property
    def plain_inputs(self) -> bool:
        """Whether the figures rest on the inputs as they stand and on nothing laid over them."""
        return self.prices == "inputs" and not self.what_if

    def plain(self) -> dict:
        """The basis as JSON values."""
        laid_over: dict = {} if self.prices == "inputs" else {"prices": self.prices}
        if self.what_if:
            laid_over["what_if"] = [list(change) for change in self.what_if]
        return {
            "lots": "standard" if self.quantity is None else "job",
            "quantity": None if self.quantity is None else f"{self.quantity.normalize():f}",
            "as_of": self.as_of.isoformat(),
            "options": list(self.options),
            "drafts": self.drafts,
        } | laid_over


@dataclass(slots=True)
class Question:
    """A structure and the part asked about, with what the basis makes of them."""

    structure: Structure
    top: int
    basis: Basis
    currency: str
    fixed: Fixed | None = None  # parts that stand at their standard


def tally(question: Question) -> tuple[Costs, Needs | None]:
    """Costs, and the needs of the job when the basis names a quantity (C5)."""
    s, basis = question.structure, question.basis
    if basis.quantity is None:
        return roll_up(s, standard_lots(s), question.fixed), None
    needs = job_needs(s, question.top, float(basis.quantity))
    return roll_up(s, job_lots(s, needs), question.fixed), needs


def _elements(row: np.ndarray) -> dict[str, str]:
    return {name: decimal_text(value) for name, value in zip(ELEMENTS, row, strict=True)}


def cost_answer(question: Question) -> dict:
    """The answer to ``cost``. Raises TallyError when a made part has no sheet in force."""
    s, top = question.structure, question.top
    require_sheets(s, top, given_cost_suffices=True, day=question.basis.as_of)
    costs, _ = tally(question)
    return {
        "part": s.parts.numbers[top],
        "basis": question.basis.plain(),
        "currency": question.currency,
        "unit_cost": decimal_text(costs.unit[top].sum()),
        "elements": _elements(costs.unit[top]),
        "this_level": _elements(costs.this_level[top]),
        "lower_levels": _elements(costs.lower_levels[top]),
    }


def needs_answer(question: Question) -> dict:
    """The answer to ``needs``: parts by level and number, phantoms blown through (U8), then what returns."""
    s, top, quantity = question.structure, question.top, question.basis.quantity
    if quantity is None:
        raise TallyError("needs hold for a quantity; give one")
    require_sheets(s, top, given_cost_suffices=False, day=question.basis.as_of)
    needs = job_needs(s, top, float(quantity))
    numbers, units = s.parts.numbers, s.parts.unit
    rows = [i for i in np.flatnonzero(needs.gross).tolist() if i != top and IS_ITSELF[s.parts.kind[i]]]
    return {
        "part": numbers[top],
        "basis": question.basis.plain(),
        "needs": [
            {
                "part": numbers[i],
                "level": int(needs.depth[i]),
                "unit": SYMBOLS[units[i]],
                "gross": decimal_text(needs.gross[i]),
                "lot": decimal_text(needs.lot[i]),
            }
            for i in sorted(rows, key=lambda i: (needs.depth[i], numbers[i]))
        ],
        "returns": [
            {"part": numbers[i], "unit": SYMBOLS[units[i]], "quantity": decimal_text(needs.returns[i])}
            for i in sorted(np.flatnonzero(needs.returns).tolist(), key=lambda i: numbers[i])
        ],
    }


def buildable_answer(question: Question, free: np.ndarray) -> dict:
    """The answer to ``buildable`` (rule W7): how many can be built from stock, and what one more would lack.

    Args:
        free: over the parts of the structure, on hand and not reserved.
    """
    s, top = question.structure, question.top
    if np.isnan(s.parts.batch[top]):
        raise TallyError(f"no released build sheet in force on {question.basis.as_of.isoformat()} for {s.parts.numbers[top]}")
    found = buildable(s, top, free)
    rows = sorted(np.flatnonzero(found.short).tolist(), key=lambda i: s.parts.numbers[i])
    return {
        "part": s.parts.numbers[top],
        # Nothing that is kept in stock goes into it: no number limits it.
        "quantity": decimal_text(found.quantity) if np.isfinite(found.quantity) else None,
        "limited_by": [{"part": s.parts.numbers[i], "short": decimal_text(found.short[i])} for i in rows],
    }


def ask(definition: Definition, part: str, basis: Basis) -> Question:
    """A question about a part of a definition held in memory. Raises TallyError for an unknown part or option."""
    parts, lines, operations, rows, codes = tabulate(definition, basis.as_of, basis.drafts)
    if part not in rows:
        raise TallyError(f"part {part} is not known")
    chosen = known_options(basis.options, codes.keys() | definition.options.keys(), definition.not_together)
    structure = build_structure(parts, lines, operations, basis.as_of, [codes[c] for c in chosen if c in codes], rows[part])
    return Question(structure, rows[part], basis, definition.currency)


def known_options(options: Sequence[str], known, not_together: Mapping[str, Collection[str]]) -> Sequence[str]:
    """The options as given. Raises TallyError for one that is not known, and for two that exclude one another.

    >>> known_options(["A", "B"], {"A", "B"}, {"B": ["A"]})
    Traceback (most recent call last):
    tally_core.basics.errors.TallyError: options A and B cannot be chosen together
    """
    for option in options:
        if option not in known:
            raise TallyError(f"option {option} is not known")
    for one, other in combinations(options, 2):
        if other in not_together.get(one, ()) or one in not_together.get(other, ()):
            raise TallyError(f"options {one} and {other} cannot be chosen together")
    return options
