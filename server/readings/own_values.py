"""What parts say in fields of their classes, stated or computed, for lists of any kind."""

from collections.abc import Iterable, Sequence

from definition.models.parts import Part, PartClass
from definition.records import class_record
from tally_core.stated.classes import FACTS, Budget, compute_fields

__all__ = ["NUMERIC", "OwnValues", "own_values_of", "typed_fields"]

#: Kinds of fields that hold numbers.
NUMERIC = ("number", "money", "computed")
#: Steps that the computed fields of a whole list may take: some seconds.
_MOST_STEPS = 3_000_000


class OwnValues:
    """The fields of all classes, and what parts say in them; what is computed is computed once a part. One query."""

    def __init__(self) -> None:
        self._classes = {c.name: class_record(c) for c in PartClass.objects.all()}
        self._computed: dict[int, dict[str, str]] = {}
        self._budget = Budget(_MOST_STEPS)

    def is_number(self, name: str) -> bool:
        """Whether every class that has a field of this name means a number by it."""
        kinds = {f.kind for c in self._classes.values() for f in c.fields if f.name == name}
        return bool(kinds) and kinds <= set(NUMERIC)

    def of(self, part: Part, name: str) -> str | float:
        """What a part says in a field: a number where one is meant and said, else text; empty where its class has none of this name."""
        own = self._classes.get(part.part_class)
        field = next((f for f in own.fields if f.name == name), None) if own else None
        if own is None or field is None:
            return ""
        text = part.own_values.get(name)
        if field.kind == "computed":
            if part.pk not in self._computed:
                facts = {n: getattr(part, n) for n in FACTS}
                self._computed[part.pk] = compute_fields(own, part.own_values, facts, self._budget)
            text = self._computed[part.pk].get(name)
        if not text:
            return ""
        try:
            return float(text) if field.kind in NUMERIC else text
        except ValueError:
            return text


def typed_fields() -> dict[str, bool]:
    """The fields of classes that are typed, by name, each with whether it holds numbers wherever it stands. One query."""
    kinds: dict[str, set[str]] = {}
    for row in PartClass.objects.order_by("name"):
        for own in class_record(row).fields:
            kinds.setdefault(own.name, set()).add(own.kind)
    return {name: held <= {"number", "money"} for name, held in kinds.items() if "computed" not in held}


def own_values_of(numbers: Iterable[str], names: Sequence[str]) -> dict[str, dict[str, str | float]]:
    """By field, what each of some parts says in it; parts that say nothing stand in none. Two queries."""
    values = OwnValues()
    found: dict[str, dict[str, str | float]] = {name: {} for name in names}
    for part in Part.objects.filter(number__in=list(numbers)).exclude(part_class=""):
        for name in names:
            said = values.of(part, name)
            if said != "":
                found[name][part.number] = said
    return found
