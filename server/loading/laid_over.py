"""Inputs that a round proposes, or that somebody only wants to try, laid over what was loaded."""

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal, InvalidOperation
from uuid import UUID

import numpy as np
from definition.models.sheets import Line, Operation
from definition.models.work_centers import WorkCenter
from standards.models import Proposal, Round
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.basics.facts import word_of
from tally_core.cost.answers import Basis
from tally_core.structure.overlay import INPUTS, Change, lay_over

from loading.loaded import Loaded

__all__ = ["Item", "check_value", "items_of", "laid_over", "read_what_if", "round_of", "with_items"]

#: Table, key, field, value; NaN takes an input away.
Item = tuple[str, str, str, float]

_LARGEST = Decimal("1e12")
MOST_TRIED = 40


def check_value(table: str, field: str, text: str) -> Decimal | None:
    """A proposed value as typed. Raises TallyError, saying what would do; empty takes away what may be missing."""
    if field not in INPUTS.get(table, ()):
        raise TallyError(f"there is no input {field[:40]} of a {table[:20].replace('_', ' ')}")
    facts = INPUTS[table][field]
    word = word_of(field, facts)
    if not text.strip():
        if facts.clears:
            return None
        raise TallyError(f"{word} cannot be empty")
    try:
        value = Decimal(text.strip())
    except InvalidOperation:
        raise TallyError(f"{word} is a number, not {text.strip()[:20]}") from None
    # Compared, not made absolute: that would round, and 1e999999999 is beyond what can be rounded.
    if not value.is_finite() or not -_LARGEST < value < _LARGEST:
        raise TallyError(f"{word} is a number below 10¹², not {text.strip()[:20]}")
    value = round(value, 9)
    above_zero = (facts.tried_bound or facts.bound) == "> 0"
    if field == "markup_percent":
        if value <= -100:
            raise TallyError(f"a markup is above -100 %, not {text.strip()[:20]}")
    elif value < 0 or (value == 0 and above_zero):
        raise TallyError(f"{word} is {'above' if above_zero else 'not below'} 0, not {text.strip()[:20]}")
    if field == "yield_percent" and value > 100:
        raise TallyError(f"a yield is at most 100 %, not {text.strip()[:20]}")
    return value


def round_of(basis: Basis) -> Round | None:
    """The round whose proposals a basis lays over the inputs. Raises TallyError for one that is gone."""
    if not basis.prices.startswith("round:"):
        return None
    found = Round.objects.filter(pk=int(basis.prices.removeprefix("round:"))).first()
    if found is None:
        raise TallyError("This round is no longer there; choose other prices.")
    return found


def items_of(the_round: Round, loaded: Loaded) -> list[Item]:
    """What a round proposes, its lines and operations by their rows on the sheets that were loaded."""
    rows = list(Proposal.objects.filter(round=the_round).values_list("table", "key", "field", "value"))
    now: dict[tuple[str, str], str] = {}
    models: tuple[tuple[str, type[Line] | type[Operation]], ...] = (("line", Line), ("operation", Operation))
    for table, model in models:
        lineages = [key for t, key, _, _ in rows if t == table]
        if lineages:
            there = model.objects.filter(lineage__in=lineages, sheet__in=loaded.sheet_of.values())
            now |= {(table, str(lineage)): str(key) for lineage, key in there.values_list("lineage", "id")}
    return [
        (table, now.get((table, key), key), field, float("nan") if value is None else float(value)) for table, key, field, value in rows
    ]


def laid_over(loaded: Loaded, basis: Basis) -> Loaded:
    """What was loaded, with the inputs of the basis laid over it."""
    items: list[Item] = []
    the_round = round_of(basis)
    if the_round is not None:
        items += items_of(the_round, loaded)
    for table, key, field, text in basis.what_if:
        value = check_value(table, field, text)
        items.append((table, key, field, float("nan") if value is None else float(value)))
    return with_items(loaded, items)


def with_items(loaded: Loaded, items: Iterable[Item]) -> Loaded:
    """Lay inputs over what was loaded; those of rows that were not loaded are left out."""
    items = list(items)
    if not items:
        return loaded
    found: dict[tuple[str, str], tuple[list[int], list[float]]] = {}
    rows: dict[str, dict] = {"line": {}, "operation": {}}
    if any(table == "line" for table, *_ in items):
        rows["line"] = {key: row for row, key in enumerate(loaded.line_ids.tolist())}
    if any(table == "operation" for table, *_ in items):
        rows["operation"] = {key: row for row, key in enumerate(loaded.operation_ids.tolist())}
    if any(table == "part" for table, *_ in items):
        rows["part"] = {key: row for row, key in enumerate(loaded.part_ids.tolist())}
    changes: list[Change] = []
    proposed = {(table, key, field) for table, key, field, _ in items}
    for table, key, field, value in items:
        if table == "work_center":
            changes += _of_center(loaded, int(key), field, value, proposed)
            continue
        if table == "part":
            at = rows[table].get(int(key))
            value = 0.0 if field == "markup_percent" and np.isnan(value) else value
        else:
            at = rows[table].get(UUID(key).bytes)
        if at is not None:
            listed = found.setdefault((table, field), ([], []))
            listed[0].append(at)
            listed[1].append(value)
    changes += [Change(table, field, np.array(at), np.array(values)) for (table, field), (at, values) in found.items()]
    parts, lines, operations = lay_over(loaded.parts, loaded.lines, loaded.operations, changes)
    return replace(loaded, parts=parts, lines=lines, operations=operations)


def _of_center(loaded: Loaded, key: int, field: str, value: float, proposed: set) -> list[Change]:
    rows = np.flatnonzero(loaded.center_ids == key)
    if not rows.size:
        return []
    found = [Change("work_center", field, rows, np.full(len(rows), value))]
    labor = loaded.operations.labor_rate
    if field == "setup_labor_rate" and np.isnan(value):
        # Not stated, it is the labor rate.
        return [Change("work_center", field, rows, labor[rows])]
    if field == "labor_rate" and ("work_center", str(key), "setup_labor_rate") not in proposed:
        center = WorkCenter.objects.filter(pk=key).first()
        if center is not None and center.setup_labor_rate is None:
            found.append(Change("work_center", "setup_labor_rate", rows, np.full(len(rows), value)))
    return found


def read_what_if(text: str) -> tuple[tuple[str, str, str, str], ...]:
    """What is tried, from an address: ``table,key,field,value`` with semicolons between.

    Raises ProblemsError naming what cannot be tried.
    """
    found, problems = [], []
    for piece in filter(None, text.split(";")):
        words = tuple(piece.split(","))
        try:
            if len(words) != 4:
                raise TallyError("what is tried is written table,key,field,value")
            table, key, field, value = words
            check_value(table, field, value)
            if table in ("part", "work_center"):
                int(key)
            else:
                UUID(key)
            found.append((table, key, field, value))
        except ValueError:
            problems.append(Problem("what_if", f"{piece[:60]} names no row"))
        except TallyError as error:
            problems.append(Problem("what_if", str(error)))
    if len(found) > MOST_TRIED:
        problems.append(Problem("what_if", f"at most {MOST_TRIED} inputs are tried at once"))
    if problems:
        raise ProblemsError(problems)
    return tuple(found)
