"""From the database to the survey that the checks look through, and what they find as plain values."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

import numpy as np
from definition.models.sheets import Line, Option
from django.db import connection
from loading.columns import coded, day_number, fetch_columns, keys_text
from loading.loaded import PartNumbers, rows_of
from loading.table_columns import LINES, PARTS, in_list_order
from tally_core.basics.kinds import LIFECYCLES
from tally_core.checks.checks import check
from tally_core.checks.finding import Finding
from tally_core.checks.survey import Survey
from tally_core.structure.tables import NO_END, NO_START

__all__ = ["Surveyed", "below", "find", "load_survey", "revision_words"]

#: What the checks look at beside what is read for a cost.
_MORE_OF_PARTS = {"lifecycle": coded("lifecycle", LIFECYCLES), "costed": ("unit_cost IS NOT NULL OR given_cost IS NOT NULL", "bool")}
_MORE_OF_LINES = {"lineage": ("lineage", "uuid"), "places": ("cardinality(reference_designators)", "int4")}


@dataclass(slots=True)
class Surveyed:
    """A survey and the database keys of its rows."""

    survey: Survey
    part_ids: np.ndarray
    sheet_ids: list[int]
    line_ids: np.ndarray
    lineages: np.ndarray


def below(part_id: int) -> list[int]:
    """A part and every part met below it through sheets that are not retired, whatever their days."""
    with connection.cursor() as cursor:
        cursor.execute(
            """WITH RECURSIVE reach(part_id) AS (
                SELECT %s::bigint UNION
                SELECT l.part_id FROM reach r JOIN definition_buildsheet s ON s.part_id = r.part_id AND s.status <> 'retired'
                JOIN definition_line l ON l.sheet_id = s.id AND l.part_id IS NOT NULL
            ) SELECT part_id FROM reach ORDER BY part_id""",
            [part_id],
        )
        return [row[0] for row in cursor.fetchall()]


def load_survey(part_ids: list[int] | None = None) -> Surveyed:
    """The sheets of some parts, or all of them. Eight queries, whatever their size.

    Raises TallyError when a line takes a part that came after the parts were read.
    """
    everything = part_ids is None
    keys = [] if part_ids is None else [keys_text(part_ids)]
    of_parts = f"FROM definition_part {'' if everything else 'WHERE id = ANY(%s::bigint[])'} ORDER BY id"
    parts = fetch_columns(_MORE_OF_PARTS, of_parts, keys, PARTS)
    ids = parts["id"].astype(np.int64)
    where = "" if everything else "AND s.part_id = ANY(%s::bigint[])"
    with connection.cursor() as cursor:
        cursor.execute(
            f"""SELECT s.id, s.part_id, s.alternate, s.revision, s.status = 'released', {day_number("s.effective_from", NO_START)[0]},
                {day_number("s.effective_to", NO_END)[0]}, (SELECT count(*) FROM definition_operation o WHERE o.sheet_id = s.id AND o.beside_id IS NULL),
                s.batch::float8
            FROM definition_buildsheet s WHERE s.status <> 'retired' {where} ORDER BY s.id""",
            keys,
        )
        heads = cursor.fetchall()
        cursor.execute(
            f"SELECT id, default_alternate FROM definition_part p WHERE default_alternate IS NOT NULL "
            f"{'' if everything else 'AND p.id = ANY(%s::bigint[])'}",
            keys,
        )
        defaults = dict(cursor.fetchall())
        cursor.execute(
            f"""SELECT o.sheet_id, o.sequence, w.code, o.stations, w.stations FROM definition_operation o
            JOIN definition_workcenter w ON w.id = o.work_center_id JOIN definition_buildsheet s ON s.id = o.sheet_id
            WHERE o.stations > w.stations AND o.beside_id IS NULL AND s.status <> 'retired' {where} ORDER BY o.sheet_id, o.sequence""",
            keys,
        )
        crowded = cursor.fetchall()
        cursor.execute(
            f"""SELECT o.sheet_id, o.sequence, w.code FROM definition_operation o
            JOIN definition_workcenter w ON w.id = o.work_center_id JOIN definition_buildsheet s ON s.id = o.sheet_id
            WHERE o.any_of_group AND w."group" = '' AND o.beside_id IS NULL AND s.status <> 'retired' {where} ORDER BY o.sheet_id, o.sequence""",
            keys,
        )
        groupless = cursor.fetchall()
    sheet_ids = np.array([head[0] for head in heads], dtype=np.int64)
    of_lines = "FROM definition_line WHERE sheet_id = ANY(%s::bigint[])"
    rows = fetch_columns(_MORE_OF_LINES, of_lines, [sheet_ids], LINES)
    order = in_list_order(rows)
    rows = {name: column[order] for name, column in rows.items()}
    child = rows_of(ids, rows["child"].astype(np.int64))
    unit, own = parts["unit"].astype(np.int16), rows["unit"].astype(np.int16)
    named = np.flatnonzero(rows["places"] > 0)
    places: dict[int, list[str]] = {}
    if named.size:
        line_ids = [UUID(bytes=bytes(rows["id"][i])) for i in named.tolist()]
        held = dict(Line.objects.filter(id__in=line_ids).values_list("id", "reference_designators"))
        # A line may have been taken away since its columns were read.
        places = {i: held.get(key, []) for i, key in zip(named.tolist(), line_ids, strict=True)}
    options = {option.id: option for option in Option.objects.all()}
    column: list[Any] = list(zip(*heads, strict=True)) if heads else [[] for _ in range(9)]
    survey = Survey(
        numbers=PartNumbers(ids),
        kind=parts["kind"].astype(np.int8),
        unit=unit,
        lifecycle=parts["lifecycle"].astype(np.int8),
        costed=parts["costed"],
        default_alternate=[defaults.get(i) for i in ids.tolist()] if defaults else [],
        part=rows_of(ids, np.array(column[1], dtype=np.int64)),
        alternate=column[2],
        revision=column[3],
        released=np.array(column[4], dtype=bool),
        first_day=np.array(column[5], dtype=np.int64),
        last_day=np.array(column[6], dtype=np.int64),
        operations=np.array(column[7], dtype=np.int32),
        batch=np.array(column[8], dtype=float),
        sheet=np.searchsorted(sheet_ids, rows["sheet"].astype(np.int64)).astype(np.int32),
        child=child,
        line_unit=np.where(own >= 0, own, unit[child]) if len(unit) else own,
        designators=places,
        crowded=_by_sheet(sheet_ids, crowded),
        groupless=_by_sheet(sheet_ids, groupless),
        options={key: option.code for key, option in options.items()},
        not_together={option.code: option.not_with for option in options.values()},
        line_kind=rows["kind"].astype(np.int8),
        line_first_day=rows["first_day"].astype(np.int64),
        line_last_day=rows["last_day"].astype(np.int64),
        **{n: rows[n].astype(np.int32) for n in ("item", "option")},
        **{n: rows[n].astype(float) for n in ("quantity", "fixed_loss")},
        **{n: rows[n] for n in ("per_lot", "removes", "customer_supplied", "not_fitted")},
    )
    return Surveyed(survey, ids, sheet_ids.tolist(), rows["id"], rows["lineage"])


def _by_sheet(sheet_ids: np.ndarray, rows: list[tuple]) -> dict[int, list[tuple[Any, ...]]]:
    """Rows that begin with a sheet's key, by the row of the sheet."""
    found: dict[int, list[tuple[Any, ...]]] = {}
    for key, *rest in rows:
        found.setdefault(int(np.searchsorted(sheet_ids, key)), []).append(tuple(rest))
    return found


def revision_words(alternate: str, revision: str) -> str:
    """A revision in few words; the first alternate goes without saying.

    >>> revision_words("A", "C"), revision_words("B", "A")
    ('rev. C', 'alt. B rev. A')
    """
    return f"rev. {revision}" if alternate == "A" else f"alt. {alternate} rev. {revision}"


def _key(surveyed: Surveyed, found: Finding) -> str:
    """A name of the finding's place that outlives the next revision and a new number: the line through its revisions and
    the component it takes, or the part and its alternate."""
    s = surveyed.survey
    if found.line >= 0:
        child = s.child[found.line]
        component = int(surveyed.part_ids[child]) if child >= 0 else ""
        return f"{found.code}|{UUID(bytes=bytes(surveyed.lineages[found.line]))}|{component}"
    alternate = s.alternate[found.sheet] if found.sheet >= 0 else ""
    return f"{found.code}|{surveyed.part_ids[found.part]}|{alternate}"


def find(surveyed: Surveyed, day: date) -> list[dict[str, Any]]:
    """The findings of a survey with database keys in place of rows."""
    s = surveyed.survey
    return [
        {
            "code": f.code,
            "severity": f.severity,
            "part_id": int(surveyed.part_ids[f.part]),
            "part": s.numbers[f.part],
            "sheet_id": surveyed.sheet_ids[f.sheet] if f.sheet >= 0 else None,
            "revision": revision_words(s.alternate[f.sheet], s.revision[f.sheet]) if f.sheet >= 0 else "",
            "line": UUID(bytes=bytes(surveyed.line_ids[f.line])) if f.line >= 0 else None,
            "item": int(s.item[f.line]) or None if f.line >= 0 else None,
            "message": f.message,
            "mend": f.mend,
            "key": _key(surveyed, f),
        }
        for f in check(s, day)
    ]
