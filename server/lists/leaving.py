"""Where everything leaves: a product or several, as a list of its reader's or in a shape that has its own form."""

from collections.abc import Sequence
from functools import partial

from definition.models.sheets import BuildSheet
from readings.product_files import files_of_products, product_file, sheet_that_counts
from tally_core.basics.errors import MissingError
from tally_core.cost.answers import Basis

from lists.files import LIST_SHAPES, list_file
from lists.making import make_list
from lists.wanted import Wanted

__all__ = ["LEAVES_AS", "WITHOUT_COSTS", "left_as", "the_sheet_of"]

#: Every shape: the list itself, and what has a form of its own; a cost list that calculates stands apart from the list as workbook.
LEAVES_AS = {
    **{f"list-{shape}": shape for shape in LIST_SHAPES},
    "calculates": "xlsx",
    "costs-csv": "csv",
    "costs-pdf": "pdf",
    "bundle": "bundle",
    "cyclonedx": "cyclonedx",
}
#: Those that hold no cost once the list has no column of money.
WITHOUT_COSTS = (*(f"list-{shape}" for shape in LIST_SHAPES), "cyclonedx")


def the_sheet_of(number: str, basis: Basis) -> BuildSheet:
    """The sheet of a part that counts. Raises MissingError where the part is not known, or none is in force."""
    sheet = sheet_that_counts(number, basis)
    if sheet is None:
        raise MissingError(f"No sheet of {number} is in force on the day of the basis.")
    return sheet


def _file(wanted: Wanted, sheet: BuildSheet, basis: Basis, shape: str) -> tuple[bytes, str, str]:
    inner = LEAVES_AS[shape]
    if not shape.startswith("list-"):
        return product_file(sheet, basis, inner)
    # In an archive two workbooks of one product need two names.
    return list_file(make_list(sheet, basis, wanted), inner), LIST_SHAPES[inner], f"list.{inner}"


def left_as(
    numbers: Sequence[str], sheet: BuildSheet | None, basis: Basis, shapes: Sequence[str], wanted: Wanted
) -> tuple[bytes, str, str, str]:
    """One file for one product in one shape, else an archive with a manifest: content, media type, what it is called, its ending.

    ``sheet`` takes the place of the one that counts of its part. Raises TallyError where nothing can be made.
    """
    if len(set(numbers)) == 1 and len(set(shapes)) == 1 and shapes[0] in LEAVES_AS:
        chosen = sheet if sheet is not None and sheet.part.number == numbers[0] else None
        one = chosen or the_sheet_of(numbers[0], basis)
        content, kind, ending = _file(wanted, one, basis, shapes[0])
        return content, kind, f"{one.part.number}-{one.revision}", ending
    content = files_of_products(numbers, shapes, basis, sheet, tuple(LEAVES_AS), partial(_file, wanted))
    return content, "application/zip", "products", "zip"
