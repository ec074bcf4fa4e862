"""Figures over HTTP: the working of any of them."""

from collections import defaultdict
from datetime import date
from typing import Any
from uuid import UUID

import numpy as np
from django.http import HttpRequest
from ninja import Query, Router, Schema
from parts.models import Part
from sheets.models import BuildSheet, Line, Operation
from sheets.records import work_center_record
from tally_core.answers import tally
from tally_core.cost import ELEMENTS
from tally_core.errors import TallyError
from tally_core.rates import rates_since
from tally_core.working import FIGURES, Working, Workings
from workcenters.models import WorkCenter

from .basis import BasisIn, read_basis
from .provenance import who_set
from .reads import Loaded, load_question

router = Router(tags=["costing"])

_MODELS: dict[str, Any] = {
    "part": Part,
    "line": Line,
    "operation": Operation,
    "work_center": WorkCenter,
    "sheet": BuildSheet,
}
_FIELDS = {"outside_price": "unit_price", "outside_minimum": "minimum_charge"}


class Source(Schema):
    """Who set an input, when, and with which words."""

    by: str
    at: str
    reason: str


class WorkingOut(Schema):
    """A figure and what it was made of; ``figure`` is what to ask for to open it."""

    label: str
    value: float
    unit: str
    operator: str
    note: str
    figure: str | None
    source: Source | None
    operands: list["WorkingOut"]


class _Addresses:
    """Between the core's figures, which name rows, and addresses, which name database keys."""

    def __init__(self, loaded: Loaded) -> None:
        self.loaded = loaded
        self._centers = {
            c.pk: work_center_record(c)
            for c in WorkCenter.objects.filter(pk__in=np.unique(loaded.center_ids).tolist()).exclude(rates=[])
        }

    def rate_since(self, source: tuple[str, int, str]) -> date | None:
        """The day on which a change set a work center's rate; none where it is the one it began with."""
        table, row, name = source
        center = self._centers.get(int(self.loaded.center_ids[row])) if table == "work_center" else None
        if center is None:
            return None
        since = rates_since(center, self.loaded.day)
        if name == "setup_labor_rate" and name not in since and center.setup_labor_rate is None:
            # Not stated, it is the labor rate.
            name = "labor_rate"
        return since.get(name)

    def rows(self, address: str) -> tuple:
        name, *keys = address.split(":")
        if name not in FIGURES or not keys:
            raise TallyError("There is no such figure.")
        loaded = self.loaded
        try:
            if name in ("line", "net", "gross"):
                return name, loaded.line_ids.tolist().index(UUID(keys[0]).bytes)
            if name in ("starts", "work"):
                return name, loaded.operation_ids.tolist().index(UUID(keys[0]).bytes)
            row = loaded.row(int(keys[0]))
            if loaded.part_ids[row] != int(keys[0]):
                raise ValueError
            return (name, row, ELEMENTS.index(keys[1])) if name == "element" else (name, row)
        except (ValueError, IndexError):
            raise TallyError("This figure is not part of the product under this basis.") from None

    def address(self, figure: tuple) -> str:
        name, row, *rest = figure
        if name in ("line", "net", "gross"):
            return f"{name}:{UUID(bytes=bytes(self.loaded.line_ids[row]))}"
        if name in ("starts", "work"):
            return f"{name}:{UUID(bytes=bytes(self.loaded.operation_ids[row]))}"
        return ":".join([name, str(self.loaded.part_ids[row]), *(ELEMENTS[e] for e in rest)])

    def record(self, source: tuple[str, int, str]) -> tuple[str, Any, str]:
        """The model, key and field of an input."""
        table, row, name = source
        loaded = self.loaded
        match table:
            case "line":
                key: Any = UUID(bytes=bytes(loaded.line_ids[row]))
            case "operation":
                key = UUID(bytes=bytes(loaded.operation_ids[row]))
            case "work_center":
                key = int(loaded.center_ids[row])
            case "sheet":
                key = loaded.sheet_of[int(loaded.part_ids[row])]
            case _:
                key = int(loaded.part_ids[row])
        if self.rate_since(source) is not None:
            name = "rates"
        return table, key, _FIELDS.get(name, name)


def _sources(working: Working, addresses: _Addresses) -> dict[tuple, dict[str, str]]:
    asked: dict[str, dict[Any, set[str]]] = defaultdict(lambda: defaultdict(set))
    waiting = [working]
    while waiting:
        node = waiting.pop()
        waiting += node.operands
        if node.source is not None:
            table, key, name = addresses.record(node.source)
            asked[table][key].add(name)
    return {
        (table, key, name): found
        for table, fields in asked.items()
        for (key, name), found in who_set(_MODELS[table], list(fields), fields).items()
    }


def _out(working: Working, addresses: _Addresses, sources: dict) -> dict[str, Any]:
    source, since = None, None
    if working.source is not None:
        source, since = sources.get(addresses.record(working.source)), addresses.rate_since(working.source)
    if source is not None and since is not None:
        words = f"holds from {since.isoformat()} on"
        source = source | {"reason": f"{source['reason']}; {words}" if source["reason"] else words}
    return {
        "label": working.label,
        "value": round(working.value, 9) + 0.0,
        "unit": working.unit,
        "operator": working.operator,
        "note": working.note,
        "figure": addresses.address(working.figure) if working.figure else None,
        "source": source,
        "operands": [_out(o, addresses, sources) for o in working.operands],
    }


@router.get("/working", response=WorkingOut)
def read_working(request: HttpRequest, sheet: int, figure: str, basis: Query[BasisIn]) -> Any:
    """The working of one figure of a sheet under a basis; figures within it open by asking again."""
    head = BuildSheet.objects.select_related("part").filter(pk=sheet).first()
    if head is None:
        raise TallyError("This sheet is no longer there.")
    loaded, question = load_question(head.part, read_basis(basis), head)
    costs, needs = tally(question)
    addresses = _Addresses(loaded)
    try:
        working = Workings(question.structure, costs, needs, loaded.currency, question.top).open(addresses.rows(figure))
    except KeyError as error:
        raise TallyError(str(error.args[0])) from None
    return _out(working, addresses, _sources(working, addresses))
