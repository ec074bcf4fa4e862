"""The working of a field that rolls up (rule C6), from single numbers."""

import numpy as np

from ..basics.units import SYMBOLS
from ..structure.rolled_fields import RolledField, counts_in_fields
from ..structure.structure import Structure
from .working_basics import Working, constant, made

__all__ = ["FieldWorkings"]


class FieldWorkings:
    """Opens one field of one structure.

    Args:
        name: of the field, as people read it.
        unit: of the field; empty for a choice.
        how: ``sum``, ``largest`` or ``worst``.
        source: the field of a part where its own value stands.
        choices: of a field that takes its worst, from the best on.
    """

    def __init__(
        self,
        structure: Structure,
        lots: np.ndarray,
        rolled: RolledField,
        name: str,
        unit: str,
        how: str,
        source: str,
        choices: list[str] | None = None,
    ) -> None:
        self.s, self.rolled, self.name, self.unit, self.how, self.source = structure, rolled, name, unit, how, source
        self.choices = choices or []
        self._net, self._counts = counts_in_fields(structure, lots)

    def open(self, part: int) -> Working:
        """The working for one stock unit of a part; its components are closed where their sheets make their value."""
        label = f"{self.name} of {self.s.parts.numbers[part]}"
        unit = self._each(part)
        if self.rolled.stands[part]:
            return made(label, unit, "sum", [self._stated(part)], self._stands_instead(part))
        usages = [u for u in range(*self.s.usages_of(part).indices(len(self.s.line))) if self._counts[u]]
        if self.how == "sum":
            return made(label, unit, "sum", [self._share(u) for u in usages], self._lacking(part))
        known = [int(self.s.child[u]) for u in usages if not np.isnan(self.rolled.value[self.s.child[u]])]
        note = ", ".join(filter(None, (self._word(part), self._lacking(part))))
        return made(label, unit, "larger of" if known else "sum", [self._below(child) for child in known], note)

    def _share(self, usage: int) -> Working:
        child, parent = int(self.s.child[usage]), int(self.s.parent[usage])
        unit = f"{self._stock_unit(child)} per {self._stock_unit(parent)}"
        net = constant("net quantity", float(self._net[usage]), unit)
        return made(self.s.parts.numbers[child], self._each(parent), "product", [net, self._below(child)])

    def _below(self, part: int) -> Working:
        value = float(self.rolled.value[part])
        if np.isnan(value):
            # It adds nothing, and says so.
            return constant(f"{self.name} of {self.s.parts.numbers[part]}", 0.0, self._each(part), "says nothing")
        if self.rolled.stands[part]:
            return self._stated(part)
        label = f"{self.name} of {self.s.parts.numbers[part]}"
        note = ", ".join(filter(None, (self._word(part), self._lacking(part))))
        return Working(label, value, self._each(part), "figure", figure=("field", part), note=note)

    def _stated(self, part: int) -> Working:
        label = f"{self.name} of {self.s.parts.numbers[part]}"
        value, unit = float(self.rolled.value[part]), self._each(part)
        return Working(label, value, unit, "input", source=("part", part, self.source), note=self._word(part))

    def _stands_instead(self, part: int) -> str:
        usages = self.s.usages_of(part)
        return "stated; it stands instead of what its sheet comes to" if self._counts[usages].any() else ""

    def _lacking(self, part: int) -> str:
        if not self.rolled.partial[part]:
            return ""
        return "at least: something that goes in says nothing" if self.how == "sum" else "something that goes in says nothing"

    def _word(self, part: int) -> str:
        value = self.rolled.value[part]
        return self.choices[int(value)] if self.choices and np.isfinite(value) else ""

    def _stock_unit(self, part: int) -> str:
        return SYMBOLS[self.s.parts.unit[part]]

    def _each(self, part: int) -> str:
        if self.how == "sum":
            return f"{self.unit} per {self._stock_unit(part)}" if self.unit else f"per {self._stock_unit(part)}"
        return self.unit
