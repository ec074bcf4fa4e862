"""Refusing a loop before it is saved."""

from datetime import date

from tally_core.basics.errors import LoopError
from tally_core.structure.effectivity import Candidate
from tally_core.structure.loops import Edge, find_loop_in_force

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line

__all__ = ["refuse_loops"]


def refuse_loops(part_ids: list[int]) -> None:
    """Raise LoopError when a part met below ``part_ids`` contains itself on some day, drafts included.

    Reads the levels below through every sheet that is not retired, whatever its days.
    """
    if not part_ids:
        return
    met: set[int] = set()
    front = set(part_ids)
    sheets: list[Candidate] = []
    edges: list[Edge] = []
    # One pair of queries a level, and a level's parts only once.
    while front:
        met |= front
        found = [
            Candidate(*row)
            for row in BuildSheet.objects.filter(part_id__in=front)
            .exclude(status="retired")
            .values_list("id", "part_id", "alternate", "revision", "status", "effective_from", "effective_to")
        ]
        sheets += found
        uses: list[tuple[int, int, date | None, date | None]] = list(
            Line.objects.filter(sheet_id__in=[s.key for s in found], part__isnull=False, not_fitted=False)
            .exclude(option_action="remove", option__isnull=False)
            .values_list("sheet_id", "part_id", "effective_from", "effective_to")
        )
        edges += uses
        front = {child for _, child, _, _ in uses} - met
    ids = sorted(met)
    row = {part_id: index for index, part_id in enumerate(ids)}
    names = dict(Part.objects.filter(id__in=ids).values_list("id", "number"))
    loop = find_loop_in_force(
        [names[i] for i in ids],
        [
            Candidate(s.key, row[s.part], *(getattr(s, n) for n in ("alternate", "revision", "status", "effective_from", "effective_to")))
            for s in sheets
        ],
        [(key, row[child], first, last) for key, child, first, last in edges],
    )
    if loop is not None:
        raise LoopError(loop)
