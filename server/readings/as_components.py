"""A product as a bill of materials for other programs: every line down to what is bought, without costs."""

from uuid import uuid4

from definition.models.parts import MakerNumber, Part
from definition.models.sheets import BuildSheet, Line
from definition.records import plain_decimal
from django.utils.timezone import now
from formats.cyclonedx import Component, cyclonedx_document
from loading.reads import load_question
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import GIVES_BACK, NAMES_PART
from tally_core.cost.answers import Basis

from readings.cost_list import lines_shown

__all__ = ["product_as_cyclonedx"]

_MOST = 100_000
_VERSION = "1"


def product_as_cyclonedx(sheet: BuildSheet, basis: Basis) -> bytes:
    """The document of a sheet under a basis. Raises TallyError where there is no answer, or more lines than one document takes."""
    loaded, question = load_question(sheet.part, basis, sheet)
    lines = loaded.lines
    counted, by_parent = lines_shown(loaded, question)
    parts = Part.objects.in_bulk(loaded.part_ids.tolist())
    keys = loaded.part_ids.tolist()
    makers: dict[int, tuple[str, str]] = {}
    for part, maker, number in (
        MakerNumber.objects.filter(part__in=keys).order_by("part", "rank", "id").values_list("part", "maker", "number")
    ):
        makers.setdefault(part, (str(maker or ""), number))
    rows = {bytes(row.pk.bytes): row for row in Line.objects.filter(sheet_id__in=loaded.sheet_of.values()).exclude(part=None)}
    sheets = BuildSheet.objects.in_bulk(list(loaded.sheet_of.values()))
    revisions = {part: sheets[pk].revision for part, pk in loaded.sheet_of.items()}
    ids = loaded.line_ids.tolist()

    def component(index: int, row: Line | None) -> Component:
        part = parts[keys[index]]
        maker, number = makers.get(part.pk, ("", ""))
        said = {"kind": part.kind, "unit": part.unit, "maker-number": number, "material": part.material}
        if row is not None:
            said = {
                "item": "" if row.item is None else str(row.item),
                "quantity": plain_decimal(row.quantity) or "",
                "quantity-unit": row.unit or part.unit,
                "per-lot": "yes" if row.quantity_basis == "per_lot" else "",
                "designators": ", ".join(row.reference_designators),
                "not-fitted": "yes" if row.not_fitted else "",
                "customer-supplied": "yes" if row.customer_supplied else "",
                **said,
            }
        return Component(
            part.number, part.description, revisions.get(part.pk, ""), maker, part.supplier_id or "", {n: v for n, v in said.items() if v}
        )

    top = component(question.top, None)
    waiting, count = [(question.top, top)], 0
    while waiting:
        index, above = waiting.pop()
        for line in by_parent.get(index, ()):
            if not NAMES_PART[lines.kind[line]] or GIVES_BACK[lines.kind[line]]:
                continue
            row = rows.get(ids[line])
            child = int(lines.child[line])
            made = component(child, row)
            above.under.append(made)
            count += 1
            if count > _MOST:
                raise TallyError(f"The product has more than {_MOST:,} lines; export a sub-assembly, or the bundle.")
            if counted[line]:
                waiting.append((child, made))
    return cyclonedx_document(top, uuid4(), now(), _VERSION)
