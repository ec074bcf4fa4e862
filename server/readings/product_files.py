"""A product as a file in each shape, and several products in several shapes as one archive that says what is in it."""

import hashlib
import io
import zipfile
from collections.abc import Callable, Collection, Sequence
from typing import Any

import orjson
from definition.models.sheets import BuildSheet
from django.utils.timezone import localtime
from formats.answers import CSV, PDF, WORKBOOK
from loading.reads import load_product, part_named
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.cost.answers import Basis

from readings.as_components import product_as_cyclonedx
from readings.cost_list import cost_list_csv, cost_list_pdf, listed
from readings.cost_workbook import cost_list_workbook
from readings.export_bundle import export_bundle
from readings.sheet_view import counting_sheet, revisions_of

__all__ = ["FORMAT", "files_of_products", "product_file", "sheet_that_counts"]

FORMAT, VERSION = "round-tally-files", 1
#: What a product leaves as, and the end of its file's name.
_ENDINGS = {"xlsx": "xlsx", "csv": "csv", "pdf": "pdf", "bundle": "json", "cyclonedx": "cdx.json"}
_KINDS = {"xlsx": WORKBOOK, "csv": CSV, "pdf": PDF, "bundle": "application/json", "cyclonedx": "application/vnd.cyclonedx+json"}
_MOST = 30


def product_file(sheet: BuildSheet, basis: Basis, shape: str) -> tuple[bytes, str, str]:
    """A product in a shape: the content, its media type, and the end of its name.

    A cost list that is indented as a workbook with live formulas, as CSV or as PDF; or the definition as a bundle, or by CycloneDX 1.6.
    """
    if shape == "bundle":
        # A definition holds each sheet once, however long the list of it would be, and needs no cost.
        parts = load_product(sheet.part, basis, sheet).part_ids.tolist()
        content = orjson.dumps(export_bundle(parts), option=orjson.OPT_INDENT_2)
    elif shape == "cyclonedx":
        content = product_as_cyclonedx(sheet, basis)
    else:
        rows = listed(sheet, basis)
        if shape == "xlsx":
            content = cost_list_workbook(rows)
        elif shape == "csv":
            content = cost_list_csv(rows).encode("utf-8-sig")
        else:
            content = cost_list_pdf(rows)
    return content, _KINDS[shape], _ENDINGS[shape]


def files_of_products(
    numbers: Sequence[str],
    shapes: Sequence[str],
    basis: Basis,
    chosen: BuildSheet | None,
    known: Collection[str],
    make: Callable[[BuildSheet, Basis, str], tuple[bytes, str, str]],
) -> bytes:
    """Some products, each by the sheet that counts or ``chosen`` in its place, in some shapes, as a ZIP archive with ``manifest.json``.

    ``make`` gives the content of one file, its media type and the end of its name, for each of the ``known`` shapes. What could not be made is named in the manifest with why. Raises ProblemsError for shapes and products that are not known.
    """
    numbers, shapes = list(dict.fromkeys(numbers)), list(dict.fromkeys(shapes))
    problems = [Problem("shapes", f"{s} is no shape; choose of {', '.join(known)}") for s in shapes if s not in known]
    if not shapes or not 0 < len(numbers) * len(shapes) <= _MOST:
        problems.append(Problem("parts", f"choose 1 to {_MOST} files: products times shapes"))
    if problems:
        raise ProblemsError(problems)
    made: list[dict[str, Any]] = []
    left_out: list[dict[str, str]] = []
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for number in numbers:
            sheet = chosen if chosen is not None and chosen.part.number == number else sheet_that_counts(number, basis)
            if sheet is None:
                left_out.append({"part": number, "why": "no sheet of it is in force on the day of the basis"})
                continue
            for shape in shapes:
                try:
                    content, _, ending = make(sheet, basis, shape)
                except TallyError as error:
                    left_out.append({"part": number, "shape": shape, "why": str(error)})
                    continue
                name = f"{_safe(number)}-{_safe(sheet.revision)}.{ending}"
                if any(m["name"] == name for m in made):
                    # Two numbers that differ only in what no name of a file holds.
                    name = f"{len(made)}-{name}"
                archive.writestr(name, content)
                made.append(
                    {
                        "name": name,
                        "part": number,
                        "revision": sheet.revision,
                        "shape": shape,
                        "bytes": len(content),
                        "sha256": hashlib.sha256(content).hexdigest(),
                    }
                )
        manifest = {
            "format": FORMAT,
            "version": VERSION,
            "made_at": localtime().isoformat(timespec="seconds"),
            "basis": basis.plain(),
            "files": made,
            "left_out": left_out,
        }
        archive.writestr("manifest.json", orjson.dumps(manifest, option=orjson.OPT_INDENT_2))
    return buffer.getvalue()


def sheet_that_counts(number: str, basis: Basis) -> BuildSheet | None:
    """The sheet of a part that is in force under a basis. Raises MissingError for a part that is not known."""
    sheets = revisions_of(part_named(number).pk)
    key = counting_sheet(sheets, basis.as_of, basis.drafts)
    return next((s for s in sheets if s.pk == key), None)


def _safe(text: str) -> str:
    """A piece of a file's name, whatever a number holds."""
    return "".join(c if c.isalnum() or c in "-_." else "_" for c in text) or "_"
