"""A handover as it is shown: the rows that do not agree in the order of the product, what was decided, what stops it."""

from typing import Any

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from jobs.work import job_state, last_job
from outside.records import open_book
from readings.provenance import who_set
from tally_core.basics.errors import MissingError
from tally_core.handover.comparing import Row
from tally_core.handover.settling import KINDS

from handover.actions.decide import choices_of
from handover.actions.hand_over import KIND as WRITING
from handover.actions.read_again import KIND as READING
from handover.looking import Look, look_at, said_of
from handover.models import Handover
from handover.planning import field_word, plan_of, row_words
from handover.wording import service_named

__all__ = ["handover_head", "handover_named", "rows_of", "who_moved"]


_NOTHING: dict[str, Any] = {
    "verdict": "agrees", "about": "", "was_agreed": True, "fields": [], "stated": [], "proposal": None, "choice": "", "by": "", "of": "", "choices": [],
    "moved_on": False, "open": False,
}  # fmt: skip


def handover_named(key: int) -> Handover:
    """One handover. Raises MissingError."""
    found = Handover.objects.select_related("top").filter(pk=key).first()
    if found is None:
        raise MissingError("This handover is no longer there.")
    return found


def handover_head(handover: Handover) -> dict[str, Any]:
    """What the list says of a handover. Two queries where something is under way."""
    states = (
        [job_state(last_job(kind, handover.pk)) for kind in (READING, WRITING)]
        if handover.state in ("work", "writing")
        else []
    )
    running = next((s for s in states if s.doing), None)
    last = max(states, key=lambda s: s.id, default=None)
    return {
        "id": handover.pk,
        "number": handover.number,
        "record": handover.record,
        "top": handover.top.number,
        "description": handover.top.description,
        "state": handover.state,
        "version": handover.version,
        "opened_by": handover.opened_by,
        "opened_at": handover.opened_at.isoformat(),
        "read_at": handover.read_at.isoformat() if handover.read_at else None,
        "ended_by": handover.ended_by,
        "ended_at": handover.ended_at.isoformat() if handover.ended_at else None,
        "log": handover.log,
        "job": running,
        "failed": last.failed if last and not running else "",
    }


def rows_of(handover: Handover, agreeing: bool = False) -> dict[str, Any]:
    """Both sides beside one another, and the plan of what would be written; with ``agreeing`` the rows that agree, too. A fixed number of queries."""
    look = look_at(handover)
    plan = plan_of(handover, look, open_book(service_named(handover.record)))
    order = {number: at for at, number in enumerate(look.ours.order)}
    descriptions = {p.number: p.description for p in look.theirs.of.definition.parts} | {
        n: p.description for n, p in look.ours.parts.items()
    }
    rows = [_row(look, key, kind, row, descriptions) for key, (kind, row) in look.rows.items()]
    if agreeing:
        rows += _agreeing(look)
    rows.sort(key=lambda r: (order.get(r["part"], len(order)), r["part"], KINDS.index(r["kind"])))
    parts = dict.fromkeys(r["part"] for r in rows)
    return {
        "rows": rows,
        "parts": [
            {
                "number": n,
                "description": descriptions.get(n, ""),
                "level": look.ours.order.get(n, 1),
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


def _agreeing(look: Look) -> list[dict[str, Any]]:
    """Rows in which nothing is to be decided."""
    rows = []
    for kind, listed in look.made.agreeing.items():
        for at, (place, (_, here, _)) in enumerate(listed):
            part = place.get("parent") or place["part"]
            beside = {"part": here.part, "item": here.item} if kind == "lines" else {"sequence": here.sequence, "name": here.name} if kind == "operations" else {}  # fmt: skip
            rows.append(
                _NOTHING | {"key": f"={kind}|{part}|{at}", "kind": kind, "part": part, "alternate": place.get("alternate", ""), "words": row_words(kind, {**place, **beside})}
            )  # fmt: skip
    return rows


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
            "proposal": f.proposal,
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
        "about": descriptions.get(str(row.names["part"]), "") if kind == "lines" else "",
        "verdict": "kept by hand" if row.kept else row.verdict,
        "was_agreed": row.was_agreed,
        "fields": fields,
        "stated": [
            {"word": field_word(kind, n), "value": v}
            for n, v in row.stated.items()
            if v not in (None, "", [], False, "0")
        ],
        "proposal": look.proposal(kind, row) if not row.fields else None,
        "choice": whole.choice if whole else "",
        "by": whole.by if whole else "",
        "of": said_of(row, ""),
        "choices": choices_of(look, kind, row),
        "moved_on": key in look.moved_on,
        "open": bool(look.open_fields(kind, row)),
    }


def who_moved(handover: Handover, key: str) -> dict[str, Any]:
    """Of one row: who set each field on our side, and who last wrote theirs, where they say so. Raises MissingError."""
    look = look_at(handover)
    kind, row = look.rows.get(key, ("", None))
    if row is None:
        raise MissingError("This row agrees by now.")
    _, here, there = row.records
    ours: dict[str, Any] = {}
    names = {f.name for f in row.fields}
    if here is not None and names:
        model: Any = {"parts": Part, "sheets": BuildSheet, "lines": Line, "operations": Operation}[kind]
        if kind == "parts":
            pk: Any = look.ours.parts[here.number].pk
        elif kind == "sheets":
            pk = look.ours.sheets[here.part, here.alternate].pk
        else:
            pk = look.ours.rows[id(here)].pk
        turned = {"issue_at": "operation_id", "part": "part_id", "option": "option_id", "work_center": "work_center_id"}
        if kind == "parts":
            turned = {}
        found = who_set(model, [pk], {pk: {turned.get(n, n) for n in names}})
        ours = {n: found.get((pk, turned.get(n, n))) for n in names}
    place = key.split("|")
    kinds = {"P": ("items",), "S": ("structures",), "L": ("structures",), "O": ("plans",)}[place[0]]
    name = place[1] if place[0] == "P" else f"{place[1]}|{place[2]}"
    theirs = next((t for k in kinds if (t := look.theirs.things.get((k, name)))), None)
    return {
        "ours": [{"field": n, "by": w["by"], "at": w["at"], "reason": w["reason"]} for n, w in ours.items() if w],
        "their_by": theirs.by if theirs and there is not None else "",
        "their_at": theirs.at if theirs and there is not None else "",
    }
