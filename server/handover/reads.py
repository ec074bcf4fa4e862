"""A handover as it is shown: the rows that do not agree in the order of the product, what was decided, what stops it."""

import uuid
from collections.abc import Mapping, Sequence
from typing import Any

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from django.utils.timezone import localdate
from jobs.work import JobState, job_state, last_jobs
from readings.provenance import who_set
from tally_core.basics.errors import MissingError
from tally_core.handover.comparing import Row
from tally_core.handover.settling import KINDS

from handover.actions.decide import choices_of
from handover.actions.hand_over import KIND as WRITING
from handover.actions.read_again import KIND as READING
from handover.kept import read_from
from handover.known_as import book_of
from handover.looking import Look, look_at, said_of
from handover.models import Handover, KnownAs
from handover.ours import that_count
from handover.planning import field_word, is_said, plan_of, row_words
from handover.states import answers
from handover.wording import key_of

__all__ = ["handover_heads", "handover_named", "rows_of", "who_moved"]


_NOTHING: dict[str, Any] = {
    "verdict": "agrees",
    "about": "",
    "was_agreed": True,
    "fields": [],
    "stated": [],
    "proposal": None,
    "choice": "",
    "by": "",
    "of": "",
    "choices": [],
    "moved_on": False,
    "open": False,
}


def handover_named(key: int) -> Handover:
    """One handover. Raises MissingError."""
    found = Handover.objects.select_related("top").filter(pk=key).first()
    if found is None:
        raise MissingError("This handover is no longer there.")
    return found


def handover_heads(handovers: Sequence[Handover]) -> list[dict[str, Any]]:
    """What the list says of some handovers. Two queries, and one for each that is under way this moment."""
    chosen = dict(Part.objects.filter(pk__in={key for h in handovers for key in h.sheets}).values_list("pk", "number"))
    jobs = last_jobs((READING, WRITING), [h.pk for h in handovers if h.state in ("work", "writing")])
    return [_head(h, [chosen[k] for k in h.sheets if k in chosen], job_state(jobs.get(h.pk))) for h in handovers]


def _head(handover: Handover, sheets: list[str], state: JobState) -> dict[str, Any]:
    return {
        "id": handover.pk,
        "number": handover.number,
        "record": handover.record,
        "top": handover.top.number,
        "description": handover.top.description,
        "sheets": sheets,
        "state": handover.state,
        "version": handover.version,
        "opened_by": handover.opened_by,
        "opened_at": handover.opened_at.isoformat(),
        "read_at": handover.read_at.isoformat() if handover.read_at else None,
        "ended_by": handover.ended_by,
        "ended_at": handover.ended_at.isoformat() if handover.ended_at else None,
        "log": handover.log,
        "job": state if state.doing else None,
        "failed": state.failed,
        "why_not": answers(handover),
    }


def rows_of(handover: Handover, agreeing: bool = False) -> dict[str, Any]:
    """Both sides beside one another, and the plan of what would be written; with ``agreeing`` the rows that agree, too. A fixed number of queries."""
    look = look_at(handover)
    plan = plan_of(handover, look, book_of(handover.record))
    order = {number: at for at, number in enumerate(look.ours.order)}
    descriptions = {p.number: p.description for p in look.theirs.of.definition.parts} | {
        n: p.description for n, p in look.ours.parts.items()
    }
    rows = [_row(look, key, kind, row, descriptions) for key, (kind, row) in look.rows.items()]
    if agreeing:
        rows += _agreeing(look, descriptions)
    rows.sort(key=lambda r: (order.get(r["part"], len(order)), r["part"], KINDS.index(r["kind"]), r["number"]))
    parts = dict.fromkeys(r["part"] for r in rows)
    there = set(look.theirs.keys.values())
    known_as = dict(KnownAs.objects.filter(record=handover.record, part__number__in=parts).values_list("part__number", "code"))
    return {
        "rows": rows,
        "parts": [
            {
                "number": n,
                "description": descriptions.get(n, ""),
                "level": look.ours.order.get(n, 1),
                "ours": n in look.ours.parts,
                "known_as": known_as.get(n, ""),
                "sheets": [
                    {
                        "alternate": alternate,
                        "id": s.pk,
                        "revision": s.revision,
                        "status": s.status,
                        "version": s.version,
                        "operations": _operations(look, n, alternate),
                    }
                    for (number, alternate), s in look.ours.sheets.items()
                    if number == n
                ],
            }
            for n in parts
        ],
        "agreeing": {kind: len(listed) for kind, listed in look.made.agreeing.items()},
        "by_hand": [
            {
                "id": x.pk,
                "part": x.parent.number,
                "alternate": x.alternate,
                "item": x.item,
                "quantity": f"{x.quantity.normalize():f}",
                "unit": x.unit,
                "issue_at": x.issue_at,
                "reason": x.reason,
                "by": x.by,
                "at": x.at.isoformat(),
                "written": bool(x.known_as),
                "gone": bool(x.known_as) and x.known_as not in there,
            }
            for x in look.by_hand
        ],
        "stops": [{"row": s.row, "part": s.part, "words": s.words} for s in plan.stops],
        "sheet": plan.sheet,
        "digest": plan.digest,
    }


def _operations(look: Look, number: str, alternate: str) -> list[dict[str, Any]]:
    found = [s for s in look.ours.of.definition.sheets if (s.part, s.alternate) == (number, alternate)]
    return [{"sequence": o.sequence, "name": o.name} for s in found for o in s.operations]


def _agreeing(look: Look, descriptions: dict[str, str]) -> list[dict[str, Any]]:
    """Rows in which nothing is to be decided."""
    rows = []
    for kind, listed in look.made.agreeing.items():
        for at, (place, (_, here, _)) in enumerate(listed):
            part = place.get("parent") or place["part"]
            beside = (
                {"part": here.part, "item": here.item}
                if kind == "lines"
                else {"sequence": here.sequence, "name": here.name}
                if kind == "operations"
                else {}
            )
            names = {**place, **beside}
            rows.append(
                _NOTHING
                | {
                    "key": f"={kind}|{part}|{at}",
                    "kind": kind,
                    "part": part,
                    "alternate": place.get("alternate", ""),
                    "words": row_words(kind, names),
                    "number": _number(names),
                    "about": descriptions.get(str(here.part), "") if kind == "lines" else "",
                }
            )
    return rows


def _number(names: Mapping[str, Any]) -> int:
    """By what rows of a kind stand in their order; those without a number behind the others."""
    number = names.get("item", names.get("sequence"))
    return 10**9 if number is None else number


def _row(look: Look, key: str, kind: str, row: Row, descriptions: dict[str, str]) -> dict[str, Any]:
    decided = look.decided
    fields = [
        {
            "name": f.name,
            "word": field_word(kind, f.name),
            "agreed": f.agreed,
            "ours": f.ours,
            "theirs": f.theirs,
            "verdict": f.verdict,
            # What is decided together is proposed only where one side is proposed for all of it.
            "proposal": look.choice(kind, row, f.name) if not decided.get((key, f.name)) else f.proposal,
            "choice": d.choice if (d := decided.get((key, f.name))) else "",
            "by": d.by if d else "",
            "of": said_of(row, f.name),
        }
        for f in row.fields
    ]
    whole = decided.get((key, ""))
    return {
        "key": key,
        "kind": kind,
        "part": str(row.names.get("parent") or row.names["part"]),
        "alternate": str(row.names.get("alternate") or ""),
        "words": row_words(kind, row.names),
        "number": _number(row.names),
        "about": descriptions.get(str(row.names["part"]), "") if kind == "lines" else "",
        "verdict": "kept by hand" if row.kept else row.verdict,
        "was_agreed": row.was_agreed,
        "fields": fields,
        "stated": [{"word": field_word(kind, n), "value": v} for n, v in row.stated.items() if is_said(kind, n, v)],
        "proposal": look.proposal(kind, row) if not row.fields else None,
        "choice": whole.choice if whole else "",
        "by": whole.by if whole else "",
        "of": said_of(row, ""),
        "choices": choices_of(look, kind, row),
        "moved_on": key in look.moved_on,
        "open": bool(look.open_fields(kind, row)),
    }


def who_moved(handover: Handover, key: str, names: Sequence[str]) -> dict[str, Any]:
    """Of some fields of one row: who set each on our side, and who last wrote theirs, where they say so. A fixed number of queries.

    Raises MissingError for a key that is none.
    """
    letter, _, rest = key.partition("|")
    part, _, rest = rest.partition("|")
    alternate, _, name = rest.partition("|")
    model: Any = {"P": Part, "S": BuildSheet, "L": Line, "O": Operation}.get(letter)
    if model is None:
        raise MissingError("There is no such row.")
    pk = _our_row(handover, letter, part, alternate, name)
    turned = {} if letter == "P" else _AS_COLUMNS
    found = who_set(model, [pk], {pk: {turned.get(n, n) for n in names}}) if pk and names else {}
    ours = {n: found.get((pk, turned.get(n, n))) for n in names}
    kind = {"P": "items", "O": "plans"}.get(letter, "structures")
    there = part if letter == "P" else key_of(part, alternate)
    theirs = next((t for t in read_from(handover.theirs).things if (t.kind, t.key) == (kind, there)), None)
    return {
        "ours": [{"field": n, "by": w["by"], "at": w["at"], "reason": w["reason"]} for n, w in ours.items() if w],
        "their_by": theirs.by if theirs else "",
        "their_at": theirs.at if theirs else "",
    }


#: Fields of a line and of an operation that are keys of other rows.
_AS_COLUMNS = {"issue_at": "operation_id", "part": "part_id", "option": "option_id", "work_center": "work_center_id"}


def _our_row(handover: Handover, letter: str, part: str, alternate: str, name: str) -> Any:
    """The key of a row of ours, None where we have none."""
    if letter == "P":
        return Part.objects.filter(number=part).values_list("pk", flat=True).first()
    sheets = list(BuildSheet.objects.filter(part__number=part, alternate=alternate))
    sheet = next(iter(that_count(handover.record, sheets, handover.day or localdate())), None)
    if sheet is None or letter == "S":
        return sheet and sheet.pk
    rows: Any = sheet.operations.filter(beside=None) if letter == "O" else sheet.lines
    try:
        wanted = {"sequence": int(name)} if letter == "O" else {"lineage": uuid.UUID(name)}
    except ValueError:
        return None
    return rows.filter(**wanted).values_list("pk", flat=True).first()
