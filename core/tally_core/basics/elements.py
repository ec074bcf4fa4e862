"""The cost elements: what a cost is made of, each declared once.

In arrays of figures an element stands at its place in :data:`ELEMENTS`, which is also the order in which it is shown. The order is
part of no stored format: what is kept names its elements.
"""

from dataclasses import dataclass

__all__ = ["AT", "ELEMENT", "ELEMENTS", "HOURLY", "OF_OPERATIONS", "Element", "Hourly"]


@dataclass(frozen=True, slots=True)
class Element:
    """One cost element.

    Attributes:
        word: for people.
        colour: one of those that the look has for elements, by its name.
        of_operations: an operation yields it (rules C3, C4), and ``cost.OperationCosts`` has it under its name; else it comes
            with parts and lines.
    """

    word: str
    colour: str
    of_operations: bool = False


@dataclass(frozen=True, slots=True)
class Hourly:
    """What an hour of an operation costs beside its labor, set-up included (rule C3): the product of what its work center states.

    Attributes:
        element: that it is a part of.
        word: for people, where it stands beside the other parts of its element.
        factors: fields of a work center and columns of operations, each with its unit; a {} stands for the currency.
    """

    element: str
    word: str
    factors: dict[str, str]


ELEMENT: dict[str, Element] = {
    "material": Element("material", "indigo"),
    "scrap": Element("scrap", "rust"),
    "setup": Element("set-up", "sky", of_operations=True),
    "labor": Element("labor", "ochre", of_operations=True),
    "machine": Element("machine", "slate", of_operations=True),
    "overhead": Element("overhead", "ash", of_operations=True),
    "subcontract": Element("subcontract", "plum", of_operations=True),
    "other": Element("other", "teal"),
    "byproduct": Element("by-product", "leaf"),
}
ELEMENTS = tuple(ELEMENT)
AT = {name: at for at, name in enumerate(ELEMENTS)}
HOURLY = (Hourly("machine", "machine", {"machine_rate": "{} per h"}), Hourly("overhead", "by the hour", {"overhead_per_hour": "{} per h"}))
OF_OPERATIONS = tuple(name for name, element in ELEMENT.items() if element.of_operations)
