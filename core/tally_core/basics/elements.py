"""The cost elements: what a cost is made of, each declared once.

In arrays of figures an element stands at its place in :data:`ELEMENTS`, which is also the order in which it is shown. The order is
part of no stored format: what is kept names its elements.
"""

from dataclasses import dataclass

__all__ = ["AT", "ELEMENT", "ELEMENTS", "OF_OPERATIONS", "Element"]


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
OF_OPERATIONS = tuple(name for name, element in ELEMENT.items() if element.of_operations)
