"""A line of an inquiry: what a row of a sender's list says, as mended so far."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from tally_core.lists.cells import read_number
from tally_core.lists.intake import designators, read_unit
from tally_core.lists.neutral import OF_PART, SaidOfPart
from tally_core.pairing.describe import kind_named
from tally_core.pairing.numbers import fold

__all__ = ["FIELDS", "InquiryLine", "all_words", "in_short", "mended_value", "own_words"]

#: What can be mended on a line, by its name in a neutral reading, with its word.
FIELDS: dict[str, str] = {
    "level": "level",
    "parent": "parent",
    "item": "item",
    "part": "number",
    "description": "description",
    "quantity": "quantity",
    "unit": "unit",
    "maker": "maker",
    "maker_number": "maker's number",
    "designators": "designators",
    "customer_supplied": "customer-supplied",
    "not_fitted": "not fitted",
    "unit_cost": "unit cost",
    "scrap_percent": "scrap, %",
    "note": "note",
    "material": "material",
    "supplier": "supplier",
    "supplier_number": "supplier's number",
    "link": "link",
    "case": "case size",
    "lifecycle": "lifecycle",
    "value": "value",
}


@dataclass(slots=True)
class InquiryLine(SaidOfPart):
    """What one row says. ``key`` is the caller's; ``source`` names the table it stands in, ``row`` is counted as a spreadsheet does.

    Row 0 is the thing that a list is for, where no row of it says so.
    """

    key: int
    source: str = ""
    row: int = 0
    level: int | None = None
    parent: str = ""
    item: str = ""
    part: str = ""
    description: str = ""
    quantity: Decimal | None = None
    unit: str = ""
    maker: str = ""
    maker_number: str = ""
    designators: list[str] = field(default_factory=list)
    customer_supplied: bool = False
    not_fitted: bool = False
    unit_cost: Decimal | None = None
    scrap_percent: Decimal | None = None
    note: str = ""
    own_fields: dict[str, str] = field(default_factory=dict)
    # What its list is called in words.
    called: str = ""

    @classmethod
    def of(cls, key: int, source: str, row: int, said: Mapping[str, Any], called: str = "") -> "InquiryLine":
        """A line out of a row of a neutral reading, in plain values."""
        return cls(
            key,
            source,
            row,
            level=said.get("level"),
            parent=said.get("parent") or "",
            item=str(said.get("item") or ""),
            part=said.get("part") or "",
            description=said.get("description") or "",
            quantity=None if said.get("quantity") in (None, "") else Decimal(said["quantity"]),
            unit=said.get("unit") or "",
            maker=said.get("maker") or "",
            maker_number=said.get("maker_number") or "",
            designators=list(said.get("designators") or ()),
            customer_supplied=bool(said.get("customer_supplied")),
            not_fitted=bool(said.get("not_fitted")),
            unit_cost=None if said.get("unit_cost") in (None, "") else Decimal(said["unit_cost"]),
            scrap_percent=None if said.get("scrap_percent") in (None, "") else Decimal(said["scrap_percent"]),
            note=said.get("note") or "",
            **{n: said.get(n) or "" for n in OF_PART},
            own_fields=dict(said.get("own_fields") or {}),
            called=called,
        )

    @property
    def thing(self) -> str:
        """What the line is of, however it is spelled: its number, else its maker's number, else its words, else only itself."""
        return fold(self.part) or fold(self.maker_number) or fold(self.description) or f"·{self.key}"

    @property
    def words(self) -> str:
        """All that says what the line is of: its description first."""
        return all_words(self.description, self.value, self.case, self.material, designators=self.designators)

    @property
    def name(self) -> str:
        """What the line is called in words."""
        return self.part or self.maker_number or self.description or f"row {self.row}"


def own_words(own_fields: Mapping[str, str]) -> str:
    """What a row says in own fields, in words.

    >>> own_words({"length_mm": "40", "finish": "black"})
    'finish black; length mm 40'
    """
    return "; ".join(f"{name.replace('_', ' ')} {text}" for name, text in sorted(own_fields.items()))


#: What the letters of a reference designator say of the kind of part (IEEE 315, class designation letters; from memory).
_LETTERS = {"R": "resistor", "C": "capacitor", "L": "inductor", "Y": "crystal"}


def all_words(description: str, *others: str, designators: Sequence[str] = ()) -> str:
    """What a row says a thing is: its description, what other columns say and it does not, and the kind by its designators where no word
    tells.

    >>> all_words("Resistor 10k", "", "0603"), all_words("Tube, aluminium", "aluminium"), all_words("10k", "R0603", designators=["R1", "R2"])
    ('Resistor 10k; 0603', 'Tube, aluminium', '10k; R0603; resistor')
    """
    low = description.casefold()
    said = [description, *(x for x in others if x.casefold() not in low)]
    letters = {m[0] for d in designators if (m := re.match(r"[A-Za-z]+(?=\d)", d))}
    kind = _LETTERS.get(letters.pop().upper(), "") if len(letters) == 1 else ""
    if kind == "resistor":
        # A number alone is so many ohms.
        said += [f"{x} Ω" for x in said if re.fullmatch(r"\d{1,3}(?:[.,]\d+)?", x)]
    words = "; ".join(filter(None, said))
    return f"{words}; {kind}" if kind and not kind_named(words) else words


def in_short(designators: Iterable[str]) -> str:
    """Designators with what follows one another as ranges; ``lists.intake.designators`` reads them back.

    >>> in_short(["R1", "R2", "R3", "R7", "C1", "C2", "X"])
    'R1-R3 R7 C1 C2 X'
    """
    runs: list[list[str]] = []
    last: tuple[str, int] | None = None
    for d in designators:
        found = re.fullmatch(r"([A-Za-z_]+)([1-9]\d{0,6})", d)
        here = (found[1], int(found[2])) if found else None
        if here and last and here == (last[0], last[1] + 1):
            runs[-1].append(d)
        else:
            runs.append([d])
        last = here
    return " ".join(f"{r[0]}-{r[-1]}" if len(r) > 2 else " ".join(r) for r in runs)


def mended_value(name: str, text: str) -> Any:
    """What was typed into a field of a line, in the plain value of a neutral reading; None where it was emptied.

    Raises ValueError, in the user's words, for what the field cannot hold, and KeyError for a field that there is not.

    >>> mended_value("quantity", "1,5"), mended_value("unit", "pcs"), mended_value("designators", "R1-R3"), mended_value("not_fitted", "no")
    ('1.5', 'ea', ['R1', 'R2', 'R3'], False)
    """
    if name not in FIELDS:
        raise KeyError(name)
    text = text.strip()
    if "\x00" in text or len(text) > 2000:
        raise ValueError("at most 2000 characters that can be shown")
    if name in ("customer_supplied", "not_fitted"):
        if text.casefold() not in ("yes", "no", ""):
            raise ValueError("yes or no")
        return text.casefold() == "yes"
    if not text:
        return None
    if name in ("quantity", "unit_cost", "scrap_percent"):
        value = read_number(text, "," in text and "." not in text)
        if value < 0:
            raise ValueError(f"{text[:40]} is below nothing")
        return f"{round(value, 9).normalize() + 0:f}"
    if name == "unit":
        unit = read_unit(text)
        if unit is None:
            raise ValueError(f"unit “{text[:20]}” is not known")
        return unit
    if name == "level":
        if not text.isdecimal() or int(text) > 99:
            raise ValueError("a level is a whole number up to 99")
        return int(text)
    return designators(text) if name == "designators" else text
