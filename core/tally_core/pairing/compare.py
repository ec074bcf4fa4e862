"""Rule P2: what a text asks against what a part states, field by field, in base units."""

from decimal import Decimal

from .describe import Described, Said
from .kinds import FIELDS

__all__ = ["AGREES", "DIFFERS", "MEETS", "NOT_STATED", "compare"]

AGREES, MEETS, DIFFERS, NOT_STATED = "agrees", "meets", "differs", "not stated"
#: Two readings of one value may differ by how they are rounded: a wire by its gauge or by its section.
_SAME = Decimal("1e-9")


def compare(asked: Described, ours: Described) -> dict[str, str]:
    """Field → verdict, over every field that either side states.

    *meets*: other than asked, and at least as good. Kinds that differ make one verdict, of the kind alone.
    """
    if asked.kind and ours.kind and asked.kind != ours.kind:
        return {"kind": DIFFERS}
    names = [n for n in FIELDS if n in asked.fields or n in ours.fields]
    return {name: _verdict(name, asked.fields.get(name), ours.fields.get(name)) for name in names}


def _verdict(name: str, asked: Said | None, ours: Said | None) -> str:
    if asked is None or ours is None:
        return NOT_STATED
    field = FIELDS[name]
    if isinstance(asked.value, Decimal) and isinstance(ours.value, Decimal):
        if abs(asked.value - ours.value) <= _SAME * max(abs(asked.value), abs(ours.value)):
            return AGREES
        better = ours.value > asked.value if field.better == "larger" else ours.value < asked.value
        return MEETS if field.better and better else DIFFERS
    if asked.value == ours.value:
        return AGREES
    # One side states more closely what the other states plainly: stainless A2 is stainless, and stainless may be A2.
    if str(ours.value).startswith(f"{asked.value} "):
        return MEETS
    if str(asked.value).startswith(f"{ours.value} "):
        return NOT_STATED
    if asked.value in field.order and ours.value in field.order:
        return MEETS if field.order.index(str(ours.value)) > field.order.index(str(asked.value)) else DIFFERS
    return DIFFERS
