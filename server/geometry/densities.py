"""What materials weigh, for masses of models.

Kilograms per cubic metre, as any handbook has them to two or three figures; from memory, not copied from one source. A part's own mass, where it is stated, is never
written over.
"""

import re

__all__ = ["density_of"]

#: The first whose word stands in a material counts: the narrower before the wider.
_DENSITIES = (
    ("stainless", 7900), ("1.43", 7900), ("1.44", 7950), ("cast iron", 7200), ("steel", 7850), ("s235", 7850), ("s355", 7850), ("iron", 7870), ("alumini", 2700), ("aluminum", 2700),
    ("en aw", 2700), ("brass", 8500), ("bronze", 8800), ("copper", 8960), ("titan", 4500), ("zinc", 7140), ("lead", 11340), ("magnesium", 1740), ("glass", 2500),
    ("polycarbonate", 1200), ("acrylic", 1190), ("polyamide", 1140), ("nylon", 1140), ("abs", 1050), ("polypropylene", 905), ("polyethylene", 950), ("ptfe", 2200), ("pom", 1410),
    ("pvc", 1380), ("silicone", 1150), ("epdm", 1150), ("rubber", 1200), ("plywood", 680), ("spruce", 450), ("pine", 500), ("beech", 720), ("oak", 700), ("mdf", 750), ("wood", 600),
)  # fmt: skip


def density_of(material: str) -> int | None:
    """Kilograms per cubic metre of a material in a person's words; None for one that is not known.

    >>> density_of("Aluminium, cast"), density_of("S235JR"), density_of("absorber"), density_of("unobtainium")
    (2700, 7850, None, None)
    """
    words = material.casefold()
    for word, density in _DENSITIES:
        # A short word is a word of its own: "abs" stands in "absorber", and says nothing there.
        if re.search(rf"\b{word}\b", words) if len(word) <= 4 and word.isalpha() else word in words:
            return density
    return None
