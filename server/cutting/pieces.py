"""Which pieces some builds take of which material, as their lines state them."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from math import ceil

from definition.models.parts import Part
from definition.models.sheets import Line
from loading.reads import load_question, part_named
from readings.matrix import Build
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.basics.units import dimension, factor
from tally_core.cost.answers import Basis, tally
from tally_core.stated.cut_pieces import CutPieces, cut_text, read_cut

__all__ = ["CutLine", "cut_lines"]


@dataclass(frozen=True, slots=True)
class CutLine:
    """One line of a sheet whose part is cut.

    ``count``: pieces for all builds together. ``stated``: what the line takes of its part for one, in the part's stock unit, losses
    left out; ``finished``: what its pieces come to in that unit, None where that is neither a length nor an area.
    """

    material: Part
    parent: str
    sheet: int
    line: str
    item: int | None
    pieces: CutPieces
    count: int
    stated: Decimal
    finished: Decimal | None
    scrap_percent: Decimal | None

    @property
    def words(self) -> str:
        return cut_text(self.pieces)

    @property
    def name(self) -> str:
        """What is written on a piece."""
        return f"{self.parent} / {self.item}" if self.item is not None else self.parent


def cut_lines(builds: Sequence[Build], basis: Basis) -> list[CutLine]:
    """The cut lines of some builds, each with its pieces; queries grow with the builds, not with their lines.

    Raises ProblemsError naming the build that has no answer or no quantity.
    """
    found: dict[str, tuple[Line, Part, int, str, Decimal, float]] = {}
    for at, build in enumerate(builds):
        if build.quantity is None:
            raise ProblemsError([Problem(f"builds[{at}].quantity", f"say how many of {build.part} are built")])
        held = Basis(basis.as_of, build.quantity, build.options, basis.drafts)
        loaded, question = load_question(part_named(build.part), held)
        s = question.structure
        _, needs = tally(question)
        assert needs is not None
        usage = {bytes(loaded.line_ids[line]): i for i, line in enumerate(s.line.tolist())}
        rows = Line.objects.filter(sheet_id__in=loaded.sheet_of.values()).exclude(cut="").select_related("part")
        for row in rows:
            i = usage.get(row.pk.bytes)
            if i is None or row.part is None:
                continue
            parent = int(s.parent[i])
            # As many as are started where the line is taken: some of them do not come through. What cutting loses is the plan's own.
            operation = int(loaded.lines.operation[int(s.line[i])])
            operation = operation if operation >= 0 else int(s.first_operation[parent])
            starts = float(s.starts[operation]) if operation >= 0 else 1.0
            lots = float(needs.lot[parent]) * starts if row.quantity_basis == "per_unit" else float(needs.lot[parent] > 0)
            key = str(row.pk)
            before = found[key][5] if key in found else 0.0
            stated = Decimal(repr(float(s.net_per_unit[i] + s.net_per_lot[i])))
            found[key] = (row, row.part, parent, s.parts.numbers[parent], stated, before + lots)
    lines = []
    for key, (row, material, _, parent_number, stated, lots) in found.items():
        pieces = read_cut(row.cut)
        lines.append(
            CutLine(
                material,
                parent_number,
                row.sheet_id,
                key,
                row.item,
                pieces,
                ceil(lots * pieces.count - 1e-9),
                stated,
                _in_unit(pieces, material.unit),
                row.scrap_percent,
            )
        )
    return sorted(lines, key=lambda x: (x.material.number, x.parent, x.item or 0))


def _in_unit(pieces: CutPieces, unit: str) -> Decimal | None:
    """What pieces come to, finished, in a unit of length or area."""
    small = "mm" if pieces.width is None else "mm2"
    if dimension(unit) != dimension(small):
        return None
    return pieces.length * (pieces.width or 1) * pieces.count * factor(small, unit)
