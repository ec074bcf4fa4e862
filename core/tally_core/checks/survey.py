"""Every sheet that is not retired, as columns: what the checks look through."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..basics.kinds import LIFECYCLES, LINE_KINDS, NAMES_PART, PART_KINDS
from ..basics.units import code
from ..stated.definition import Definition
from ..structure.tables import NO_END, NO_START

__all__ = ["Survey", "survey"]


@dataclass(slots=True)
class Survey:
    """Columns over parts, sheets, and lines; a sheet names its part, a line its sheet and its component, by row."""

    numbers: Sequence[str]  # over parts
    kind: np.ndarray  # int8, index into PART_KINDS
    unit: np.ndarray  # int16, index into units.SYMBOLS
    lifecycle: np.ndarray  # int8, index into LIFECYCLES
    costed: np.ndarray  # bool: a unit cost or a given cost is stated
    default_alternate: Sequence[str | None]

    part: np.ndarray  # int32, over sheets
    alternate: Sequence[str]
    revision: Sequence[str]
    released: np.ndarray  # bool, else draft
    first_day: np.ndarray  # int32 ordinal days, half-open
    last_day: np.ndarray
    operations: np.ndarray  # int32: how many
    batch: np.ndarray  # float: for how many its quantities are stated

    sheet: np.ndarray  # int32, over lines in list order
    child: np.ndarray  # int32 part row, -1 for a text line
    line_kind: np.ndarray  # int8, index into LINE_KINDS
    item: np.ndarray  # int32, 0 when none
    quantity: np.ndarray  # NaN when as needed
    line_unit: np.ndarray  # int16
    per_lot: np.ndarray  # bool
    fixed_loss: np.ndarray
    option: np.ndarray  # int32, -1 for none
    removes: np.ndarray  # bool
    customer_supplied: np.ndarray  # bool
    not_fitted: np.ndarray  # bool
    line_first_day: np.ndarray
    line_last_day: np.ndarray
    designators: Mapping[int, Sequence[str]]  # by line row, where there are any

    #: By sheet row, the operations that ask for more stations than their work center has: (sequence, work center, asked, there).
    crowded: Mapping[int, Sequence[tuple[int, str, int, int]]]
    #: By sheet row, the operations that may be done at any of a group, at a work center that is in none: (sequence, work center).
    groupless: Mapping[int, Sequence[tuple[int, str]]]

    options: Mapping[int, str]  # option → its code
    not_together: Mapping[str, Sequence[str]]

    #: By sheet row, operations whose run time is computed and no longer so: (sequence, minutes stated, minutes computed or why there are none).
    computed: Mapping[int, Sequence[tuple[int, str, str]]] = field(init=False, default_factory=dict)
    #: By part row, how many of which part its model holds directly; only of parts that have a model.
    modelled: Mapping[int, Mapping[int, int]] = field(init=False, default_factory=dict)

    @property
    def counts(self) -> np.ndarray:
        """Bool over lines: components and by-products that are fitted."""
        return NAMES_PART[self.line_kind] & (self.child >= 0) & ~self.not_fitted


def survey(definition: Definition) -> Survey:
    """The survey of a definition held in memory."""
    rows = {p.number: i for i, p in enumerate(definition.parts)}
    sheets = [s for s in definition.sheets if s.status != "retired"]
    lines = [(i, line) for i, s in enumerate(sheets) for line in s.lines]
    codes = {c: i for i, c in enumerate(sorted({x.option for _, x in lines if x.option}))}
    units = [code(p.unit) for p in definition.parts]

    def days(values, open_end: int) -> np.ndarray:
        return np.array([open_end if v is None else v.toordinal() for v in values], dtype=np.int64)

    child = [rows[x.part] if x.part else -1 for _, x in lines]
    there = {c.code: c.stations for c in definition.work_centers}
    alone = {c.code for c in definition.work_centers if not c.group}
    crowded = {
        i: [
            (o.sequence, o.work_center, o.stations, there[o.work_center])
            for o in s.operations
            if o.work_center and o.stations > there.get(o.work_center, o.stations)
        ]
        for i, s in enumerate(sheets)
    }
    groupless = {
        i: [(o.sequence, o.work_center) for o in s.operations if o.any_of_group and o.work_center in alone] for i, s in enumerate(sheets)
    }
    return Survey(
        numbers=[p.number for p in definition.parts],
        kind=np.array([PART_KINDS.index(p.kind) for p in definition.parts], dtype=np.int8),
        unit=np.array(units, dtype=np.int16),
        lifecycle=np.array([LIFECYCLES.index(p.lifecycle) for p in definition.parts], dtype=np.int8),
        costed=np.array([p.unit_cost is not None or p.given_cost is not None for p in definition.parts], dtype=bool),
        default_alternate=[p.default_alternate for p in definition.parts],
        part=np.array([rows[s.part] for s in sheets], dtype=np.int32),
        alternate=[s.alternate for s in sheets],
        revision=[s.revision for s in sheets],
        released=np.array([s.status == "released" for s in sheets], dtype=bool),
        first_day=days((s.effective_from for s in sheets), NO_START),
        last_day=days((s.effective_to for s in sheets), NO_END),
        operations=np.array([len(s.operations) for s in sheets], dtype=np.int32),
        batch=np.array([float(s.batch) for s in sheets], dtype=float),
        sheet=np.array([i for i, _ in lines], dtype=np.int32),
        child=np.array(child, dtype=np.int32),
        line_kind=np.array([LINE_KINDS.index(x.kind) for _, x in lines], dtype=np.int8),
        item=np.array([x.item or 0 for _, x in lines], dtype=np.int32),
        quantity=np.array([float("nan") if x.quantity is None else float(x.quantity) for _, x in lines], dtype=float),
        line_unit=np.array(
            [code(x.unit) if x.unit else (units[c] if c >= 0 else 0) for (_, x), c in zip(lines, child, strict=True)], dtype=np.int16
        ),
        per_lot=np.array([x.quantity_basis == "per_lot" for _, x in lines], dtype=bool),
        fixed_loss=np.array([float(x.fixed_loss) for _, x in lines], dtype=float),
        option=np.array([codes[x.option] if x.option else -1 for _, x in lines], dtype=np.int32),
        removes=np.array([bool(x.option) and x.option_action == "remove" for _, x in lines], dtype=bool),
        customer_supplied=np.array([x.customer_supplied for _, x in lines], dtype=bool),
        not_fitted=np.array([x.not_fitted for _, x in lines], dtype=bool),
        line_first_day=days((x.effective_from for _, x in lines), NO_START),
        line_last_day=days((x.effective_to for _, x in lines), NO_END),
        designators={i: x.reference_designators for i, (_, x) in enumerate(lines) if x.reference_designators},
        crowded={i: found for i, found in crowded.items() if found},
        groupless={i: found for i, found in groupless.items() if found},
        options={i: c for c, i in codes.items()},
        not_together=definition.not_together,
    )
