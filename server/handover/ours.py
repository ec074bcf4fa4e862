"""Our side: a product with all beneath it, each sheet as it counts for production, and the rows that it was read from."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from definition.models.work_centers import WorkCenter
from definition.records import line_record, operation_record, part_record
from loading.reads import reached
from tally_core.handover.comparing import Of
from tally_core.stated.definition import Definition, Sheet
from tally_core.structure.effectivity import revision_order

from handover.models import Opened

__all__ = ["Ours", "Scope", "our_side", "scope_of", "taken_by", "that_count"]


@dataclass(slots=True)
class Ours:
    """Our side.

    Attributes:
        sheets: the sheet that counts, by part and alternate.
        parts: by number.
        rows: by the identity of a line's or operation's record, its row.
        order: the numbers of the product's parts on the way down, each once, with their level.
    """

    of: Of
    parts: dict[str, Part]
    sheets: dict[tuple[str, str], BuildSheet] = field(default_factory=dict)
    rows: dict[int, Line | Operation] = field(default_factory=dict)
    order: dict[str, int] = field(default_factory=dict)

    def numbers_of(self, keys: Iterable[int]) -> list[str]:
        """The numbers of some parts, in the order of the product."""
        wanted = set(keys)
        return [number for number, part in self.parts.items() if part.pk in wanted]


@dataclass(frozen=True, slots=True)
class Scope:
    """Which parts our side is made of. ``stamp`` is another as soon as anything of them or of their sheets is.

    Attributes:
        tops: where the way down begins.
        beside: parts that only the other side has beneath them.
        keys: all parts.
        sheets: those of them whose sheets count.
    """

    tops: tuple[int, ...]
    beside: tuple[int, ...]
    keys: tuple[int, ...]
    sheets: tuple[int, ...]
    stamp: int


def taken_by(sheets: Iterable[int]) -> set[int]:
    """The parts of some keys and all that their sheets ever took, whatever their revision. One query."""
    own = set(sheets)
    return own | set(Line.objects.filter(sheet__part__in=own).exclude(part=None).values_list("part", flat=True))


def scope_of(record: str, top: Part, day: date, more: Iterable[str] = (), *, only: Sequence[int] = (), lock: bool = False) -> Scope:
    """The parts beneath a product, and those of some numbers beside it. Six queries.

    Args:
        more: numbers of parts beside the product's own, which the other side has beneath it.
        only: keys of the parts whose sheets count, with what stands on them; none: all beneath the product.
        lock: hold the parts and sheets until the transaction ends.
    """
    beside = Part.objects.filter(number__in=set(more)).exclude(pk=top.pk).order_by("pk").values_list("pk", flat=True)
    beside_keys = tuple(beside)
    keys = sorted(taken_by(only) | set(beside_keys)) if only else reached([top.pk, *beside_keys], day, drafts=True).tolist()
    of_sheets = only or keys
    parts, sheets = (Part.objects.filter(pk__in=keys).order_by("pk"), BuildSheet.objects.filter(part__in=of_sheets).order_by("pk"))
    if lock:
        parts, sheets = parts.select_for_update(), sheets.select_for_update()
    opened = Opened.objects.filter(handover__record=record, sheet__part__in=of_sheets).order_by("sheet").values_list("sheet", flat=True)
    # Operations name work centers by their code.
    centers = WorkCenter.objects.order_by("pk").values_list("pk", "version")
    versions = (parts.values_list("pk", "version"), sheets.values_list("pk", "version", "status"), opened, centers)
    stamp = hash(tuple(tuple(rows) for rows in versions))
    return Scope(tuple(only) or (top.pk,), beside_keys, tuple(keys), tuple(of_sheets), stamp)


def our_side(record: str, scope: Scope, day: date) -> Ours:
    """A product as it is handed over on a day. A fixed number of queries.

    Of each part and alternate the sheet in force counts, or the draft that took over what a system of record had moved; where there is
    neither, the newest draft, so that one sees what is to come.
    """
    keys, beside = scope.keys, scope.beside
    parts = {p.pk: p for p in Part.objects.filter(pk__in=keys)}
    chosen = that_count(record, list(BuildSheet.objects.filter(part__in=scope.sheets)), day)
    lines: dict[int, list[Line]] = defaultdict(list)
    for line in Line.objects.filter(sheet__in=chosen).select_related("operation", "option").order_by("position", "id"):
        line.part = parts.get(line.part_id) if line.part_id else None
        lines[line.sheet_id].append(line)
    operations: dict[int, list[Operation]] = defaultdict(list)
    for row in Operation.objects.filter(sheet__in=chosen, beside=None).select_related("work_center", "standard"):
        operations[row.sheet_id].append(row)
    beneath: dict[int, list[int]] = defaultdict(list)
    for sheet in chosen:
        beneath[sheet.part_id] += [x.part_id for x in lines[sheet.pk] if x.part_id]
    order = _way_down([*scope.tops, *beside], beneath, set(beside) - set(scope.tops))
    lineage: dict[int, str] = {}
    ours = Ours(Of(Definition(), lineage), {parts[k].number: parts[k] for k in order})
    ours.order = {parts[k].number: level for k, level in order.items()}
    ours.of.definition.parts.extend(part_record(parts[k]) for k in order)
    # On the way down, whatever order the database gave them in: what is written stands in it.
    place = {key: at for at, key in enumerate(order)}
    for sheet in sorted((s for s in chosen if s.part_id in place), key=lambda s: (place[s.part_id], s.alternate)):
        number = parts[sheet.part_id].number
        ours.sheets[number, sheet.alternate] = sheet
        stated = Sheet(
            number, sheet.alternate, sheet.revision, sheet.status, sheet.effective_from, sheet.effective_to, sheet.batch, sheet.reference
        )
        for line in lines[sheet.pk]:
            made = line_record(line)
            stated.lines.append(made)
            ours.rows[id(made)], lineage[id(made)] = line, str(line.lineage)
        for row in sorted(operations[sheet.pk], key=lambda o: o.sequence):
            step = operation_record(row)
            stated.operations.append(step)
            ours.rows[id(step)] = row
        ours.of.definition.sheets.append(stated)
    return ours


def that_count(record: str, sheets: list[BuildSheet], day: date) -> list[BuildSheet]:
    """Of some sheets those that are handed over on a day, one of each part and alternate."""
    taken_over = set(Opened.objects.filter(handover__record=record, sheet__in=sheets).values_list("sheet", flat=True))
    by_place: dict[tuple[int, str], list[BuildSheet]] = defaultdict(list)
    for sheet in sheets:
        by_place[sheet.part_id, sheet.alternate].append(sheet)
    chosen = []
    for held in by_place.values():
        held.sort(key=lambda s: revision_order(s.revision))
        newest = held[-1]
        in_force = [
            s
            for s in held
            if s.status == "released" and (s.effective_from or day) <= day and not (s.effective_to and s.effective_to <= day)
        ]
        if newest.status == "draft" and (newest.pk in taken_over or not in_force):
            chosen.append(newest)
        elif in_force:
            chosen.append(max(in_force, key=lambda s: s.effective_from or date.min))
    return chosen


def _way_down(tops: list[int], beneath: dict[int, list[int]], beside: set[int]) -> dict[int, int]:
    """The parts in the order one meets them on the way down, with their level."""
    found: dict[int, int] = {}
    waiting = [(key, 0 if key not in beside else 1) for key in reversed(tops)]
    while waiting:
        key, level = waiting.pop()
        if key in found:
            continue
        found[key] = level
        waiting += [(k, level + 1) for k in reversed(beneath.get(key, []))]
    return found
