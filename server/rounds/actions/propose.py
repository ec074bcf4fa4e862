"""Propose inputs in a round: by hand, by a list, by a percentage over a selection; and take proposals back."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Any
from uuid import UUID

from accounts.access import require
from definition.models.parts import Part
from definition.models.sheets import Line, Operation
from definition.models.work_centers import WorkCenter
from django.db import transaction
from django.db.models import Q
from django.db.models.functions import Upper
from loading.laid_over import check_value
from standards.models import Proposal, Round
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.lists.cells import Cell
from tally_core.lists.titled import TitledList
from tally_core.structure.overlay import INPUTS, input_word

from rounds.jobs import open_round_for

__all__ = ["COLUMNS", "OWN", "Selection", "propose", "propose_list", "propose_percent", "withdraw"]

#: The model's own name of a field, where it differs.
OWN = {"outside_price": "unit_price", "outside_minimum": "minimum_charge"}
_MODELS: dict[str, Any] = {"part": Part, "work_center": WorkCenter, "line": Line, "operation": Operation}
#: The columns of a list of proposals, by what their titles may be.
COLUMNS = {"part": ("part", "part number", "number"), "work_center": ("work center", "code"), "reason": ("reason", "why")} | {
    field: (field.replace("_", " "), input_word(field)) for table in ("part", "work_center") for field in INPUTS[table]
}
_MOST_ROWS, _MOST_BY_HAND = 60_000, 1000


@dataclass(frozen=True, slots=True)
class Selection:
    """Which rows a percentage is over. Words left empty select nothing away; for lines and operations they say whose."""

    part_class: str = ""
    search: str = ""
    work_center: str = ""
    group: str = ""

    def words(self) -> str:
        said = [
            f"{name.replace('_', ' ')} {value}"
            for name, value in (
                ("class", self.part_class),
                ("parts with", self.search),
                ("work center", self.work_center),
                ("group", self.group),
            )
            if value
        ]
        return ", ".join(said) or "everything"


def propose(user: Any, round_id: int, items: Sequence[dict[str, Any]], source: str = "by hand") -> Round:
    """Propose inputs; one that is proposed already gets the new value.

    Args:
        items: ``{"table", "key", "field", "value", "reason"}``; the key is a part's number, a work center's code, or the
            key of a line or an operation.

    Raises ProblemsError placing each problem at its item, and Refused.
    """
    require(user, "rounds")
    if not 0 < len(items) <= _MOST_BY_HAND:
        raise TallyError(f"Propose 1 to {_MOST_BY_HAND:,} inputs at a time; bring more in as a list.")
    with transaction.atomic():
        the_round = open_round_for(round_id, "change")
        found, problems = _read(items)
        _keep(user, the_round, found, problems, source)
        return the_round


def _read(items: Sequence[dict[str, Any]]) -> tuple[list[Proposal], list[Problem]]:
    """What was typed, as proposals not yet kept."""
    found: list[Proposal] = []
    problems: list[Problem] = []
    keys: dict[str, set[str]] = {}
    for item in items:
        keys.setdefault(item["table"], set()).add(str(item["key"]))
    rows: dict[str, dict[str, Any]] = {}
    for table, wanted in keys.items():
        if table in ("part", "work_center"):
            name = "number" if table == "part" else "code"
            held = _MODELS[table].objects.annotate(any_case=Upper(name)).filter(any_case__in={k.upper() for k in wanted})
            rows[table] = {row.any_case: row for row in held}
        elif table in _MODELS:
            held = _MODELS[table].objects.filter(pk__in=filter(_is_key, wanted)).select_related("sheet__part")
            rows[table] = {str(row.pk).upper(): row for row in held}
    for item in items:
        table, key, field = item["table"], str(item["key"]), item["field"]
        where = item.get("place") or f"{key}.{field}"
        try:
            if table not in rows:
                raise TallyError(f"there is no table {table[:20]}")
            row = rows[table].get(key.upper())
            if row is None:
                raise TallyError(f"{table.replace('_', ' ')} {key[:40]} is not known")
            value = check_value(table, field, str(item["value"] if item["value"] is not None else ""))
            reason = str(item.get("reason") or "").strip()[:500]
            if field in ("given_cost", "markup_percent") and value is not None and not reason:
                raise TallyError("say why a cost or a markup is given by hand")
            _refuse_wrong_kind(table, field, row)
        except TallyError as error:
            problems.append(Problem(where, f"{key}: {error}" if key not in str(error) else str(error)))
            continue
        part = row if table == "part" else row.sheet.part if table in ("line", "operation") else None
        found.append(Proposal(table=table, key=key_of(table, row), field=field, part=part, value=value, reason=reason))
    return found, problems


def key_of(table: str, row: Any) -> str:
    """What a proposal names: a line or an operation by what it stays over its revisions."""
    return str(row.lineage if table in ("line", "operation") else row.pk)


def _is_key(text: str) -> bool:
    try:
        UUID(text)
    except ValueError:
        return False
    return True


def _refuse_wrong_kind(table: str, field: str, row: Any) -> None:
    """Inputs that the row cannot have, by its kind."""
    if table == "part":
        if row.kind == "phantom":
            raise TallyError(f"{row.number} is a phantom and is not costed on its own")
        if field in ("unit_cost", "overhead_percent") and row.kind == "made":
            raise TallyError(f"{row.number} is made; its cost comes from its sheet, or is given by hand with a reason")
        if field == "costing_lot" and row.kind != "made":
            raise TallyError(f"{row.number} is {row.kind} and has no costing lot")
    if table == "operation" and row.resource and field == "yield_percent":
        raise TallyError(f"what works beside operation {row.sequence} of {row.sheet.part.number} has no yield of its own")
    if table == "operation" and row.outside != field.startswith("outside") and field != "yield_percent":
        where = "done outside" if row.outside else "done at a work center"
        raise TallyError(f"operation {row.sequence} of {row.sheet.part.number} is {where} and has no {input_word(field)}")


def _keep(user: Any, the_round: Round, found: list[Proposal], problems: list[Problem], source: str) -> None:
    """Write proposals and count the round on; nothing at all when something is wrong."""
    if the_round.scope == "chosen":
        inside = set(the_round.chosen.values_list("pk", flat=True))
        for number in sorted({p.part.number for p in found if p.part is not None and p.part_id not in inside}):
            problems.append(Problem(number, f"{number} is not among the parts of {the_round.name}; choose it too"))
    if not found and not problems:
        problems.append(Problem("", "nothing is proposed"))
    if problems:
        raise ProblemsError(problems[:200])
    once = {(p.table, p.key, p.field): p for p in found}
    for proposal in once.values():
        proposal.round, proposal.source, proposal.proposed_by = the_round, source, str(user)
    Proposal.objects.bulk_create(
        once.values(),
        batch_size=2000,
        update_conflicts=True,
        unique_fields=["round", "table", "key", "field"],
        update_fields=["value", "source", "reason", "proposed_by", "proposed_at"],
    )
    the_round.version += 1
    the_round._history_user, the_round._change_reason = user, f"proposed {len(once):,} inputs, {source}"
    the_round.save()


def propose_percent(user: Any, round_id: int, table: str, field: str, percent: str, selection: Selection) -> tuple[Round, int]:
    """Propose what stands now, so many percent higher, over a selection; rows without a value are passed over.

    Returns the round and how many rows it is over. Raises ProblemsError, naming the first rows whose value would become
    negative, and Refused.
    """
    require(user, "rounds")
    try:
        share = Decimal(percent.strip().removesuffix("%").strip())
    except InvalidOperation:
        share = Decimal("NaN")
    if not share.is_finite() or share == 0 or not -100_000 <= share <= 100_000:
        raise ProblemsError([Problem("percent", f"a percentage is a number like 8 or -2.5, not {percent.strip()[:20] or 'empty'}")])
    if field not in INPUTS.get(table, ()):
        raise ProblemsError([Problem("field", "choose what the percentage is of")])
    source = f"{share.normalize():+f} % over {selection.words()}"
    with transaction.atomic():
        the_round = open_round_for(round_id, "change")
        own = OWN.get(field, field)
        rows = list(_selected(table, selection).exclude(**{own: None}).exclude(**{own: 0}))
        if table == "operation":
            rows = [row for row in rows if row.outside == field.startswith("outside") or field == "yield_percent"]
        if not rows:
            raise ProblemsError([Problem("selection", f"nothing of {selection.words()} has a {input_word(field)}")])
        if len(rows) > _MOST_ROWS:
            raise ProblemsError([Problem("selection", f"{len(rows):,} rows at once are too many; {_MOST_ROWS:,} are kept in one go")])
        found, problems = [], []
        for row in rows:
            part = row if table == "part" else row.sheet.part if table in ("line", "operation") else None
            value = round_to(getattr(row, own) * (1 + share / 100))
            name = part.number if part is not None else row.code
            try:
                check_value(table, field, f"{value:f}")
                _refuse_wrong_kind(table, field, row)
            except TallyError as error:
                problems.append(
                    Problem("percent", f"{share.normalize():+f} % makes {input_word(field)} of {name} {value.normalize():f}: {error}")
                )
                continue
            found.append(Proposal(table=table, key=key_of(table, row), field=field, part=part, value=value, reason=source))
        _keep(user, the_round, found, problems, source)
        return the_round, len(found)


def round_to(value: Decimal) -> Decimal:
    """Nine decimals, as amounts are kept."""
    return value.quantize(Decimal("1e-9"))


def _selected(table: str, selection: Selection) -> Any:
    if table == "work_center":
        rows = WorkCenter.objects.all()
        rows = rows.filter(code=selection.work_center) if selection.work_center else rows
        return rows.filter(group=selection.group) if selection.group else rows
    of_part = Q()
    prefix = "" if table == "part" else "part__" if table == "line" else "sheet__part__"
    if selection.part_class:
        of_part &= Q(**{f"{prefix}part_class": selection.part_class})
    if selection.search.strip():
        of_part &= Q(**{f"{prefix}search__contains": selection.search.strip().upper()})
    if table == "part":
        return Part.objects.filter(of_part).exclude(kind="phantom")
    rows = _MODELS[table].objects.filter(of_part, sheet__status="released").select_related("sheet__part")
    if table == "operation" and selection.work_center:
        rows = rows.filter(work_center__code=selection.work_center)
    return rows


def propose_list(user: Any, round_id: int, rows: Sequence[Sequence[Cell]], source: str) -> tuple[Round, int]:
    """Propose what a list holds: a column with part numbers or work centers, and one for each input.

    Returns the round and how many inputs. Raises ProblemsError placing each problem at its row, and Refused.
    """
    require(user, "rounds")
    numbers = [field for field in COLUMNS if field not in ("part", "work_center", "reason")]
    listed = TitledList(rows, COLUMNS, numbers)
    at = listed.columns
    table = "part" if "part" in at else "work_center"
    fields = [f for f in INPUTS[table] if f in at]
    if table not in at or not fields:
        raise ProblemsError(
            [
                Problem(
                    "",
                    (
                        "the first row must name the columns: Part or Work center, and at least one of "
                        f"{', '.join(input_word(f) for f in (*INPUTS['part'], *INPUTS['work_center']))}"
                    ),
                )
            ]
        )
    if len(rows) > _MOST_ROWS:
        raise ProblemsError([Problem("", f"a list has at most {_MOST_ROWS:,} rows; bring it in in parts")])
    items, unread = _items(listed, table, fields)
    with transaction.atomic():
        the_round = open_round_for(round_id, "change")
        found, problems = _read(items)
        problems = sorted([*unread, *problems], key=lambda p: int(p.place.removeprefix("row ")))
        _keep(user, the_round, found, [Problem(p.place, f"{p.place}: {p.message}") for p in problems], source)
        return the_round, len(found)


def _items(listed: TitledList, table: str, fields: list[str]) -> tuple[list[dict[str, Any]], list[Problem]]:
    """What the rows propose, and the numbers among them that cannot be read."""
    items, unread = [], []
    for row in listed:
        for field in fields:
            place = f"row {row.number}"
            try:
                value = row.amount(field)
            except ValueError as error:
                unread.append(Problem(place, f"{input_word(field)}: {error}"))
                continue
            if value is not None:
                items.append(
                    {
                        "table": table,
                        "key": row.text(table),
                        "field": field,
                        "value": f"{value:f}",
                        "reason": row.text("reason"),
                        "place": place,
                    }
                )
    return items, unread


def withdraw(user: Any, round_id: int, keys: Sequence[int]) -> Round:
    """Take proposals back by their keys; all of them when none is named."""
    require(user, "rounds")
    with transaction.atomic():
        the_round = open_round_for(round_id, "change")
        rows = Proposal.objects.filter(round=the_round)
        gone, _ = (rows.filter(pk__in=keys) if keys else rows).delete()
        if gone:
            the_round.version += 1
            the_round._history_user, the_round._change_reason = user, f"took back {gone:,} proposals"
            the_round.save()
        return the_round
