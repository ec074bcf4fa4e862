"""Over HTTP: the words of a system of record, and the routing of a part that is handed over."""

from typing import Any

from django.http import HttpRequest
from handover.actions.save_words import save_words
from handover.actions.take_operations import routing_of, take_operations
from handover.models import WordMap
from handover.planning import field_word
from handover.wording import TABLES, words_of
from ninja import Router, Schema
from outside.records import FieldWord, Words

__all__ = ["router"]

router = Router(tags=["handover"])


class FieldWordOut(Schema):
    """A field of ours under their word; ``owner``: whose it is by rule, ours, theirs or nobody's."""

    table: str
    ours: str
    word: str
    theirs: str
    owner: str


class FieldWordIn(Schema):
    """See :class:`FieldWordOut`."""

    table: str
    ours: str
    theirs: str
    owner: str = ""


class RecordWords(Schema):
    """What crosses to a system of record, what else could, and its words for values of a field; ``version`` 0: never edited."""

    fields: list[FieldWordOut]
    more: list[FieldWordOut]
    values: dict[str, dict[str, str]]
    version: int


class RecordWordsIn(Schema):
    """The words as they are to be."""

    fields: list[FieldWordIn]
    values: dict[str, dict[str, str]]
    version: int


class StepOf(Schema):
    """An operation of ours."""

    sequence: int
    name: str


class IssuedLine(Schema):
    """A line and where it is issued; ``key`` is what it is known by."""

    key: str
    item: int | None
    part: str
    issue_at: int | None


class RoutingOut(Schema):
    """The operations and lines of a sheet."""

    operations: list[StepOf]
    lines: list[IssuedLine]


class RoutingIn(Schema):
    """Operations of the library to add, and by line where it is issued."""

    part: str
    alternate: str = "A"
    codes: list[str] = []
    issue: dict[str, int | None] = {}


#: What could cross beside what does: single values that mean the same to anybody.
_MORE = {
    "parts": (
        "second_description",
        "part_class",
        "size_mm",
        "lifecycle",
        "supplier",
        "supplier_number",
        "reorder_level",
        "order_minimum",
        "order_multiple",
        "kept_in",
        "unit_cost",
    ),
    "sheets": ("reference",),
    "lines": ("effective_from", "effective_to", "customer_supplied", "text", "fixed_loss", "yield_percent", "kind", "quantity_basis"),
    "operations": (
        "run_basis",
        "crew",
        "setup_crew",
        "cycle_quantity",
        "queue_minutes",
        "wait_minutes",
        "move_minutes",
        "yield_percent",
        "instructions",
    ),
}


def _shown(record: str) -> dict[str, Any]:
    words: Words = words_of(record)
    kept = WordMap.objects.filter(record=record).first()
    crossing = {(f.table, f.ours) for f in words.fields}
    return {
        "fields": [
            {"table": f.table, "ours": f.ours, "word": field_word(f.table, f.ours), "theirs": f.theirs, "owner": f.owner}
            for f in words.fields
        ],
        "more": [
            {"table": t, "ours": n, "word": field_word(t, n), "theirs": "", "owner": ""}
            for t in TABLES
            for n in _MORE[t]
            if (t, n) not in crossing
        ],
        "values": {n: dict(v) for n, v in words.values.items()},
        "version": kept.version if kept else 0,
    }


@router.get("/words", response=RecordWords)
def read_words(request: HttpRequest, record: str) -> Any:
    """The words of a system of record."""
    return _shown(record)


@router.put("/words", response=RecordWords)
def keep_words(request: HttpRequest, record: str, payload: RecordWordsIn) -> Any:
    """Keep them as they are edited."""
    fields = [FieldWord(f.table, f.ours, f.theirs, f.owner) for f in payload.fields]
    save_words(request.user, record, fields, payload.values, payload.version)
    return _shown(record)


@router.get("/{handover_id}/routing", response=RoutingOut)
def read_routing(request: HttpRequest, handover_id: int, part: str, alternate: str = "A") -> Any:
    """The operations of a part, and where its lines are issued."""
    return routing_of(handover_id, part, alternate)


@router.post("/{handover_id}/routing", response=RoutingOut)
def add_operations(request: HttpRequest, handover_id: int, payload: RoutingIn) -> Any:
    """Take operations of the library, and issue lines at them: in a draft."""
    take_operations(request.user, handover_id, payload.part, payload.alternate, payload.codes, payload.issue)
    return routing_of(handover_id, payload.part, payload.alternate)
