"""Opening a figure: its working as plain values, each input with who set it and when."""

from collections import defaultdict
from datetime import date, datetime
from typing import Any
from uuid import UUID

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from definition.models.work_centers import WorkCenter
from definition.records import work_center_record
from loading.laid_over import round_of
from loading.loaded import Loaded
from standards.models import Proposal, Round, Standard
from tally_core.basics.elements import AT, ELEMENTS
from tally_core.basics.errors import MissingError, TallyError
from tally_core.cost.answers import Basis, Question
from tally_core.cost.cost import Costs
from tally_core.cost.working_basics import Working
from tally_core.cost.working_of_moves import ALL_FIGURES, MovesWorkings
from tally_core.structure.needs import Needs
from tally_core.structure.rates import rates_since

from readings.provenance import who_set

__all__ = ["Stated", "open_figure", "opened", "proposed_in", "stated_over"]

#: Who set an input that is laid over the others: (table, key, field) → {"by", "at", "reason"}.
Stated = dict[tuple[str, str, str], dict[str, str]]

_MODELS: dict[str, Any] = {"part": Part, "line": Line, "operation": Operation, "work_center": WorkCenter, "sheet": BuildSheet}
_FIELDS = {"outside_price": "unit_price", "outside_minimum": "minimum_charge"}


def proposed_in(the_round: Round) -> Stated:
    """The inputs a round proposes, each with who proposed it."""
    stated = {
        (p.table, p.key, p.field): {
            "by": p.proposed_by,
            "at": p.proposed_at.isoformat(),
            "reason": "; ".join(filter(None, (f"proposed in {the_round.name}", p.source, p.reason if p.reason != p.source else ""))),
        }
        for p in Proposal.objects.filter(round=the_round)
    }
    # A figure names the row of a line or an operation, a proposal what that stays over its revisions.
    rows: tuple[tuple[str, type[Line] | type[Operation]], ...] = (("line", Line), ("operation", Operation))
    for table, model in rows:
        named = {key for t, key, _ in stated if t == table}
        for lineage, key in model.objects.filter(lineage__in=named).values_list("lineage", "id") if named else ():
            stated |= {(t, str(key), f): s for (t, k, f), s in list(stated.items()) if t == table and k == str(lineage)}
    return stated


def stated_over(basis: Basis) -> Stated:
    """The inputs that a basis lays over those that stand, with where they come from."""
    the_round = round_of(basis)
    found = proposed_in(the_round) if the_round is not None else {}
    for table, key, field, _ in basis.what_if:
        found[table, key, field] = {"by": "what if", "at": "", "reason": "tried here, kept nowhere"}
    return found


class _Addresses:
    """Between the core's figures, which name rows, and addresses, which name database keys."""

    def __init__(self, loaded: Loaded, stated: Stated) -> None:
        self.loaded, self.stated = loaded, stated
        dated = Part.objects.filter(pk__in=loaded.part_ids.tolist()).exclude(prices=[]).values_list("pk", "prices")
        self._priced = {key: [date.fromisoformat(c["first_day"]) for c in prices] for key, prices in dated}
        self._centers = {
            c.pk: work_center_record(c) for c in WorkCenter.objects.filter(pk__in=np.unique(loaded.center_ids).tolist()).exclude(rates=[])
        }

    def rate_since(self, source: tuple[str, int, str]) -> date | None:
        """The day on which a change set a work center's rate or a part's price; none where it is the one it began with."""
        table, row, name = source
        if table == "part" and name == "unit_cost":
            days = [d for d in self._priced.get(int(self.loaded.part_ids[row]), ()) if d <= self.loaded.day]
            return max(days, default=None)
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
        if name not in ALL_FIGURES or not keys:
            raise TallyError("There is no such figure.")
        loaded = self.loaded
        try:
            if name in ("line", "net", "gross"):
                return name, loaded.line_ids.tolist().index(UUID(keys[0]).bytes)
            if name in ("starts", "work"):
                return name, loaded.operation_ids.tolist().index(UUID(keys[0]).bytes)
            if name == "moves":
                return self._moved(*keys)
            row = loaded.row(int(keys[0]))
            return (name, row, AT[keys[1]]) if name == "element" else (name, row)
        except (ValueError, IndexError, TypeError, MissingError):
            raise TallyError("This figure is not part of the product under this basis.") from None

    def _moved(self, table: str, key: str, field: str) -> tuple:
        """The rows of an input whose sensitivity is asked for."""
        loaded = self.loaded
        if table == "work_center":
            rows = np.flatnonzero(loaded.center_ids == int(key)).tolist()
            if not rows:
                raise ValueError
            return ("moves", "operation", field, *rows)
        if table in ("line", "operation"):
            ids = loaded.line_ids if table == "line" else loaded.operation_ids
            return "moves", table, field, ids.tolist().index(UUID(key).bytes)
        return "moves", table, field, loaded.row(int(key))

    def address(self, figure: tuple) -> str:
        name, row, *rest = figure
        if name in ("line", "net", "gross"):
            return f"{name}:{UUID(bytes=bytes(self.loaded.line_ids[row]))}"
        if name in ("starts", "work"):
            return f"{name}:{UUID(bytes=bytes(self.loaded.operation_ids[row]))}"
        return ":".join([name, str(self.loaded.part_ids[row]), *(ELEMENTS[e] for e in rest)])

    def laid_over(self, source: tuple[str, int, str]) -> dict[str, str] | None:
        """Who proposed an input that is laid over the others, or tries it."""
        if not self.stated:
            return None
        table, row, name = source
        key = {"line": self.loaded.line_ids, "operation": self.loaded.operation_ids, "work_center": self.loaded.center_ids}
        ids = key.get(table)
        at = self.loaded.part_ids[row] if ids is None else ids[row]
        text = str(UUID(bytes=bytes(at))) if table in ("line", "operation") else str(at)
        found = self.stated.get((table, text, name))
        return found or (self.stated.get((table, text, "labor_rate")) if name == "setup_labor_rate" else None)

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
            name = "prices" if table == "part" else "rates"
        return table, key, _FIELDS.get(name, name)


def _sources(working: Working, addresses: _Addresses, until: datetime | None) -> dict[tuple, dict[str, str]]:
    asked: dict[str, dict[Any, set[str]]] = defaultdict(lambda: defaultdict(set))
    waiting = [working]
    while waiting:
        node = waiting.pop()
        waiting += node.operands
        if node.source is not None and addresses.laid_over(node.source) is None:
            table, key, name = addresses.record(node.source)
            asked[table][key].add(name)
    found = {
        ("standard", key, name): source
        for key, source in _who_accepted(list(asked.pop("standard", {})), addresses.loaded.day).items()
        for name in ("unit", "elements")
    }
    return found | {
        (table, key, name): source
        for table, fields in asked.items()
        for (key, name), source in who_set(_MODELS[table], list(fields), fields, until).items()
    }


def _why_given(working: Working, loaded: Loaded) -> dict[int, str]:
    """For each part with a cost or a markup given by hand in a working: why."""
    rows, waiting = set(), [working]
    while waiting:
        node = waiting.pop()
        waiting += node.operands
        if node.source is not None and node.source[0] == "part" and node.source[2] in ("given_cost", "markup_percent"):
            rows.add(node.source[1])
    if not rows:
        return {}
    reasons = dict(Part.objects.filter(pk__in=[int(loaded.part_ids[row]) for row in rows]).values_list("pk", "given_reason"))
    return {row: reasons.get(int(loaded.part_ids[row]), "") for row in rows}


def _who_accepted(part_ids: list[int], day: date) -> dict[int, dict[str, str]]:
    """For each part: who accepted the standard that holds on a day."""
    rows = Standard.objects.filter(part__in=part_ids, first_day__lte=day).select_related("round").order_by("first_day")
    return {
        x.part_id: {
            "by": x.round.closed_by,
            "at": x.round.closed_at.isoformat() if x.round.closed_at else "",
            "reason": f"accepted with {x.round.name}; holds from {x.first_day.isoformat()} on",
        }
        for x in rows
    }


def _out(working: Working, addresses: _Addresses, sources: dict, why: dict[int, str]) -> dict[str, Any]:
    source, since, note = None, None, working.note
    if working.source is not None:
        source = addresses.laid_over(working.source)
        if source is None:
            source, since = sources.get(addresses.record(working.source)), addresses.rate_since(working.source)
        if working.source[2] in ("given_cost", "markup_percent"):
            note = why.get(working.source[1], note)
    if source is not None and since is not None:
        words = f"holds from {since.isoformat()} on"
        source = source | {"reason": f"{source['reason']}; {words}" if source["reason"] else words}
    return {
        "label": working.label,
        "value": round(working.value, 9) + 0.0,
        "unit": working.unit,
        "operator": working.operator,
        "note": note,
        "figure": addresses.address(working.figure) if working.figure else None,
        "source": source,
        "operands": [_out(o, addresses, sources, why) for o in working.operands],
    }


def open_figure(
    loaded: Loaded, question: Question, costs: Costs, needs: Needs | None, figure: str, stated: Stated, until: datetime | None = None
) -> dict[str, Any]:
    """The working of a figure by its address, its operands closed where they are figures of their own.

    Args:
        stated: who set the inputs that are laid over the others.
        until: who set an input is looked for up to then; up to now when None.

    Raises TallyError for a figure that is not there.
    """
    workings = MovesWorkings(question.structure, costs, needs, loaded.currency, question.top, question.fixed)
    try:
        working = workings.open(_Addresses(loaded, stated).rows(figure))
    except KeyError as error:
        raise TallyError(str(error.args[0])) from None
    return opened(working, loaded, stated, until)


def opened(working: Working, loaded: Loaded, stated: Stated, until: datetime | None = None) -> dict[str, Any]:
    """A working as plain values, each input with who set it and when."""
    addresses = _Addresses(loaded, stated)
    return _out(working, addresses, _sources(working, addresses, until), _why_given(working, loaded))
