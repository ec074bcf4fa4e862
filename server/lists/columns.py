"""The columns that a list may have: each key once, with its title and what it holds."""

from dataclasses import dataclass

from readings.part_list import FIELD_TITLES

__all__ = ["COLUMNS", "FLAT_COLUMNS", "OWN", "PART_COLUMNS", "ListColumn"]

#: Before the name of a field of a class.
OWN = "own:"


@dataclass(frozen=True, slots=True)
class ListColumn:
    """A column's title, what it holds (text, part, number, money, picture or tick), and what it says in words."""

    title: str
    holds: str = "text"
    words: str = ""


#: Fields of the part that stand as they are stated, under the titles of the part list.
_OF_PART = {
    "second_description": "text",
    "part_class": "text",
    "material": "text",
    "mass_kg": "number",
    "size_mm": "text",
    "lead_time_days": "number",
    "lifecycle": "text",
    "supplier": "text",
    "supplier_number": "text",
    "supplier_link": "text",
    "buying_unit": "text",
    "kept_in": "text",
    "selling_price": "money",
}
PART_COLUMNS = tuple(_OF_PART)
#: What the model says of a part bent from sheet.
FLAT_COLUMNS = ("thickness", "flat", "bends", "cut_length", "cutouts")

COLUMNS: dict[str, ListColumn] = {
    "level": ListColumn("Level", "number", "how far beneath the product"),
    "item": ListColumn("Item", "number"),
    "number": ListColumn("Part", "part"),
    "revision": ListColumn("Revision", words="of the sheet that counts"),
    "description": ListColumn("Description"),
    "kind": ListColumn("Kind"),
    "picture": ListColumn("Picture", "picture", "the first that stands beside the part"),
    "quantity": ListColumn("Quantity", "number", "as the line states it: for one, or for the batch that its sheet is of"),
    "unit": ListColumn("Unit"),
    "loss": ListColumn("Loss"),
    "needed": ListColumn("Needed", "number", "in the whole, losses with it: of the job, or of one"),
    "stock_unit": ListColumn("Stock unit"),
    "operation": ListColumn("Operation", words="that takes it"),
    "designators": ListColumn("Designators"),
    "each": ListColumn("Unit cost", "money"),
    "cost": ListColumn("Cost", "money", "in one of the product"),
    "maker": ListColumn("Maker"),
    "maker_number": ListColumn("Maker's number"),
    "on_hand": ListColumn("On hand", "number"),
    **{key: ListColumn(FIELD_TITLES[key], holds) for key, holds in _OF_PART.items()},
    "thickness": ListColumn("Thickness, mm", "number", "of a part bent from sheet, by its model"),
    "flat": ListColumn("Flat size, mm", words="of a part bent from sheet, by its model"),
    "bends": ListColumn("Bends", "number"),
    "cut_length": ListColumn("Length of cut, mm", "number"),
    "cutouts": ListColumn("Cut-outs", "number"),
    "tick": ListColumn("Checked", "tick", "an empty box, for whoever goes through it"),
}
