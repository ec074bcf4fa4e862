"""What the screens of rounds show. A fixed number of queries each, whatever the size of the round."""

from collections.abc import Iterable
from typing import Any

from definition.given import GIVEN_WORDS
from definition.models.parts import Part
from definition.models.sheets import Line, Operation
from definition.models.work_centers import WorkCenter
from definition.records import plain_decimal
from django.db import connection
from django.db.models import Case, Count, Value, When
from jobs.work import JobState, job_state, last_job
from loading.loaded import Loaded
from loading.standards import MILLION
from readings.opening import open_figure, proposed_in
from standards.by_name import amounts_sql, in_order, places_sql
from standards.models import Proposal, Revaluation, Round, Standard, Tally, TallyInputs, TallyRow
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import MissingError, TallyError
from tally_core.cost.answers import Basis, Question
from tally_core.cost.causes import CAUSES
from tally_core.cost.cost import roll_up, standard_lots
from tally_core.structure.overlay import input_word
from tally_core.structure.structure import build_structure

from rounds.actions.propose import OWN, key_of
from rounds.jobs import KIND
from rounds.snapshot import unpack
from rounds.staleness import changes_since
from rounds.states import answers
from rounds.tallying import loaded_for

__all__ = [
    "SORTS",
    "list_rounds",
    "one_row",
    "proposal_page",
    "round_head",
    "round_history",
    "round_named",
    "rows_page",
    "side_working",
    "standards_of",
]

_MOVED = "(r.unit - r.before)"
#: What the table is sorted by, the largest first, gains and losses alike.
SORTS = {
    "unit": f"abs({_MOVED})",
    "stock": f"abs({_MOVED} * coalesce(m.on_hand, 0))",
    "orders": f"abs({_MOVED} * coalesce(o.open, 0))",
    "percent": f"abs({_MOVED}::float8 / nullif(r.before, 0))",
    "number": "p.number",
    "new": "r.unit",
}


def _array(kept: str, places: str, names: tuple[str, ...]) -> str:
    return f"ARRAY[{', '.join(amounts_sql(kept, places, names))}]"


_STOCK = "(SELECT part_id, sum(quantity) AS on_hand FROM definition_stockmove GROUP BY part_id) m ON m.part_id = r.part_id"
_ORDERS = "(SELECT part_id, sum(quantity) AS open FROM definition_openorder GROUP BY part_id) o ON o.part_id = r.part_id"
_NAMED = (
    f"JOIN {places_sql('elements', ELEMENTS)} e ON e.tally_id = r.tally_id JOIN {places_sql('causes', CAUSES)} c ON c.tally_id = r.tally_id"
)
_FROM = f"FROM standards_tallyrow r {_NAMED} JOIN definition_part p ON p.id = r.part_id LEFT JOIN {_STOCK} LEFT JOIN {_ORDERS}"
_ROW = f"""p.id, p.number, p.description, p.kind, p.unit AS stock_unit, p.part_class, {GIVEN_WORDS} AS given, r.lot, r.before, r.unit,
    {_array("r.before_elements", "e", ELEMENTS)} AS before_elements, {_array("r.elements", "e", ELEMENTS)} AS elements,
    {_array("r.causes", "c", CAUSES)} AS causes, r.standard IS NOT NULL AS has_standard, coalesce(m.on_hand, 0)::float8 AS on_hand, coalesce(o.open, 0)::float8 AS open"""


def round_named(round_id: int) -> Round:
    """A round by its key. Raises TallyError when it is gone."""
    found = Round.objects.filter(pk=round_id).first()
    if found is None:
        raise MissingError("This round is no longer there.")
    return found


def _plain(the_round: Round) -> dict[str, Any]:
    return {
        **{n: getattr(the_round, n) for n in ("id", "name", "note", "status", "scope", "opened_by", "closed_by", "version")},
        "first_day": the_round.first_day.isoformat(),
        "opened_at": the_round.opened_at.isoformat(),
        "closed_at": the_round.closed_at.isoformat() if the_round.closed_at else None,
    }


def list_rounds() -> list[dict[str, Any]]:
    """All rounds, the newest first, each with what it moved or would move."""
    proposals = dict(Proposal.objects.values_list("round").annotate(n=Count("id")))
    parts = dict(Tally.objects.values_list("round", "parts"))
    return [
        _plain(the_round) | {"proposals": proposals.get(the_round.pk, 0), "parts": parts.get(the_round.pk, 0)}
        for the_round in Round.objects.all()
    ]


def round_head(the_round: Round) -> dict[str, Any]:
    """A round, what is being done with it, and what its tally comes to."""
    job = job_state(last_job(KIND, the_round.pk)) if the_round.status == "open" else JobState()
    found = _plain(the_round) | {
        "proposals": the_round.proposals.count(),
        "chosen": list(the_round.chosen.order_by("number").values_list("number", flat=True)),
        "job": job.shown(),
        "failed": job.failed,
        "tally": None,
        "overlaps": [],
    }
    tally = Tally.objects.filter(round=the_round).first()
    changed: list[str] = []
    if tally is not None:
        if the_round.status == "open" and not job.doing:
            changed = changes_since(the_round, tally)
        found["tally"] = {
            "at": tally.tallied_at.isoformat(),
            "by": tally.tallied_by,
            "lacking": tally.lacking,
            "unpriced": tally.unpriced,
            "stale": changed,
            **_sums(the_round, tally),
        }
        if the_round.status == "open":
            found["overlaps"] = _overlaps(the_round, tally)
    return found | {"why_not": answers(the_round, tally, changed)}


def _sums(the_round: Round, tally: Tally) -> dict[str, Any]:
    """What a tally moves altogether; once accepted, what it did move."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"""SELECT count(*), count(*) FILTER (WHERE r.unit <> r.before), count(*) FILTER (WHERE r.standard IS NULL),
            coalesce(sum(r.before * m.on_hand), 0)::float8, coalesce(sum(r.unit * m.on_hand), 0)::float8,
            coalesce(sum(r.before * o.open), 0)::float8, coalesce(sum(r.unit * o.open), 0)::float8
            FROM standards_tallyrow r LEFT JOIN {_STOCK} LEFT JOIN {_ORDERS} WHERE r.tally_id = %s""",
            [tally.pk],
        )
        parts, moved, first, *money = cursor.fetchone()
        if the_round.status == "accepted":
            cursor.execute(
                f"""SELECT coalesce(sum(coalesce(before, 0) * on_hand), 0)::float8, coalesce(sum(after * on_hand), 0)::float8
                FROM {Revaluation._meta.db_table} WHERE round_id = %s""",
                [the_round.pk],
            )
            money[:2] = cursor.fetchone()
    names = ("stock_before", "stock_after", "orders_before", "orders_after")
    return {"parts": parts, "moved": moved, "first": first} | {n: from_millionths(v) for n, v in zip(names, money, strict=True)}


def from_millionths(millionths: float) -> float:
    return round(millionths / MILLION, 6) + 0.0


def _overlaps(the_round: Round, tally: Tally) -> list[dict[str, Any]]:
    """Other open rounds that were tallied over some of the same parts."""
    shared = (
        TallyRow.objects.filter(tally__round__status="open", part__in=tally.rows.values("part"))
        .exclude(tally=tally)
        .values_list("tally__round__id", "tally__round__name")
        .annotate(n=Count("id"))
    )
    return [{"id": key, "name": name, "parts": n} for key, name, n in shared]


def _named(names: Iterable[str], millionths: Iterable[int]) -> dict[str, float]:
    return {name: value / MILLION for name, value in zip(names, millionths, strict=True)}


def _row(found: dict[str, Any]) -> dict[str, Any]:
    moved = found["unit"] - found["before"]
    return {
        **{
            n: found[n]
            for n in ("id", "number", "description", "kind", "stock_unit", "part_class", "given", "has_standard", "on_hand", "open")
        },
        "lot": found["lot"] / MILLION,
        "before": found["before"] / MILLION,
        "after": found["unit"] / MILLION,
        "before_elements": _named(ELEMENTS, found["before_elements"]),
        "elements": _named(ELEMENTS, found["elements"]),
        "causes": _named(CAUSES, found["causes"]),
        "stock_moved": from_millionths(moved * found["on_hand"]),
        "orders_moved": from_millionths(moved * found["open"]),
    }


def rows_page(the_round: Round, sort: str, search: str, part_class: str, moved: bool, offset: int, limit: int | None) -> dict[str, Any]:
    """A window of a round's table; all of it when ``limit`` is None."""
    where = ["r.tally_id = (SELECT id FROM standards_tally WHERE round_id = %s)"]
    params: list[Any] = [the_round.pk]
    if search.strip():
        where.append("p.search LIKE %s")
        params.append(f"%{_escaped(search.strip().upper())}%")
    if part_class:
        where.append("p.part_class = %s")
        params.append(part_class)
    if moved:
        where.append("r.unit <> r.before")
    order = SORTS[sort] + (" NULLS FIRST, p.number" if sort == "number" else " DESC NULLS LAST, p.number")
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_ROW}, count(*) OVER () AS total {_FROM} WHERE {' AND '.join(where)} ORDER BY {order} OFFSET %s LIMIT %s",
            [*params, offset, limit],
        )
        assert cursor.description is not None
        names = [c.name for c in cursor.description]
        found = [dict(zip(names, row, strict=True)) for row in cursor.fetchall()]
    return {"total": found[0]["total"] if found else 0, "offset": offset, "items": [_row(f) for f in found]}


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def one_row(the_round: Round, part_id: int) -> dict[str, Any]:
    """One part of a round. Raises TallyError when it is not in its tally."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_ROW} {_FROM} WHERE r.tally_id = (SELECT id FROM standards_tally WHERE round_id = %s) AND r.part_id = %s",
            [the_round.pk, part_id],
        )
        assert cursor.description is not None
        row, names = cursor.fetchone(), [c.name for c in cursor.description]
    if row is None:
        raise TallyError(f"This part is not in the tally of {the_round.name}.")
    return _row(dict(zip(names, row, strict=True)))


def proposal_page(the_round: Round, offset: int, limit: int) -> dict[str, Any]:
    """A window of what a round proposes, each with what stands now."""
    rows = list(the_round.proposals.select_related("part")[offset : offset + limit])
    keys: dict[str, list[str]] = {}
    for row in rows:
        keys.setdefault(row.table, []).append(row.key)
    held: dict[tuple[str, str], Any] = {}
    models: tuple[tuple[str, Any], ...] = (("part", Part), ("work_center", WorkCenter), ("line", Line), ("operation", Operation))
    for table, model in models:
        if table in keys:
            found: Any
            if table in ("line", "operation"):
                # Of its revisions the released ones before drafts, the newest before others: that one is met last.
                found = model.objects.filter(lineage__in=keys[table]).order_by(
                    Case(When(sheet__status="draft", then=Value(0)), default=Value(1)), "sheet_id"
                )
                found = found.select_related("part") if table == "line" else found
            else:
                found = model.objects.filter(pk__in=keys[table])
            held |= {(table, key_of(table, x)): x for x in found}
    return {
        "total": the_round.proposals.count(),
        "offset": offset,
        "items": [_proposal(row, held.get((row.table, row.key))) for row in rows],
    }


def _proposal(row: Proposal, record: Any) -> dict[str, Any]:
    name, more = "", ""
    if row.table == "part" and row.part is not None:
        name, more = row.part.number, row.part.description
    elif row.table == "work_center" and record is not None:
        name, more = record.code, record.name
    elif row.part is not None:
        name = row.part.number
        if record is None:
            more = "a line or an operation that is no longer there"
        elif row.table == "line":
            more = f"item {record.item or '–'}, {record.part.number if record.part else 'text'}"
        else:
            more = f"operation {record.sequence} {record.name}".strip()
    now = getattr(record, OWN.get(row.field, row.field), None) if record is not None else None
    return {
        "id": row.pk,
        "table": row.table,
        "name": name,
        "more": more,
        "field": row.field,
        "word": input_word(row.field),
        "now": plain_decimal(now),
        "value": plain_decimal(row.value),
        "source": row.source,
        "reason": row.reason,
        "by": row.proposed_by,
        "at": row.proposed_at.isoformat(),
    }


def round_history(the_round: Round) -> list[dict[str, Any]]:
    """What was done with a round, the last first. Tallies are none of it: they change nothing."""
    rows = the_round.history.select_related("history_user").order_by("-history_id")[:300]
    return [{"at": r.history_date.isoformat(), "by": str(r.history_user or ""), "what": r.history_change_reason or "changed"} for r in rows]


def standards_of(part: Part) -> list[dict[str, Any]]:
    """The standards of a part, the first one first, each with what it did to its stock."""
    revalued = {r.round_id: r for r in Revaluation.objects.filter(part=part)}
    found = []
    for x in Standard.objects.filter(part=part).select_related("round__tally").order_by("first_day"):
        stock = revalued.get(x.round_id)
        found.append(
            {
                "first_day": x.first_day.isoformat(),
                "round": x.round_id,
                "name": x.round.name,
                "by": x.round.closed_by,
                "at": x.round.closed_at.isoformat() if x.round.closed_at else "",
                "lot": x.lot / MILLION,
                "unit": x.unit / MILLION,
                "elements": _named(ELEMENTS, in_order(x.round.tally.elements, x.elements, ELEMENTS)),
                "on_hand": float(stock.on_hand) if stock else None,
                "stock_moved": (
                    from_millionths(float((stock.after - stock.before) * stock.on_hand)) if stock and stock.before is not None else None
                ),
            }
        )
    return found


def side_working(the_round: Round, part_id: int, side: str, figure: str) -> dict[str, Any]:
    """The working of a figure of a tally: of the new costing, or of the old one it is compared with.

    Both are made from the inputs that were kept, so that they open as they were, whatever was changed since.
    """
    row = TallyRow.objects.filter(tally__round=the_round, part_id=part_id).first()
    if row is None:
        raise TallyError(f"This part is not in the tally of {the_round.name}.")
    until, stated = None, {}
    if side == "new":
        loaded, fixed = unpack(bytes(TallyInputs.objects.get(tally__round=the_round).content))
        stated, until = proposed_in(the_round), the_round.tally.tallied_at
    elif row.standard is not None:
        standard = Standard.objects.select_related("round__tally").get(pk=row.standard)
        loaded, fixed = unpack(bytes(TallyInputs.objects.get(tally__round=standard.round).content))
        stated, until = proposed_in(standard.round), standard.round.tally.tallied_at
    else:
        # Without a standard it is compared with its inputs as they stand.
        _, fixed = unpack(bytes(TallyInputs.objects.get(tally__round=the_round).content))
        loaded = loaded_for(the_round)
    return _open(loaded, fixed, part_id, figure, stated, until)


def _open(loaded: Loaded, fixed: Any, part_id: int, figure: str, stated: Any, until: Any) -> dict[str, Any]:
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, loaded.day)
    top = loaded.row(part_id)
    question = Question(s, top, Basis(loaded.day), loaded.currency, fixed)
    costs = roll_up(s, standard_lots(s), fixed)
    return open_figure(loaded, question, costs, None, figure, stated, until)
