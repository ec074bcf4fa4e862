"""What is to be written of theirs: each thing as it will be, with all in it that is theirs alone left as it stands."""

import copy
from collections.abc import Iterable
from typing import Any

from outside.records import Book, Write
from tally_core.handover.settling import Change

from handover.looking import Look
from handover.wording import in_their_words, key_of

__all__ = ["writes_of"]

_ROWS = {"lines": ("structures", "rows"), "operations": ("plans", "steps")}


def writes_of(look: Look, changes: Iterable[Change], book: Book) -> list[Write]:
    """The writes of some changes, items before the structures that name them; each thing once."""
    things = look.theirs.things
    bodies: dict[tuple[str, str], dict[str, Any] | None] = {}

    def body(kind: str, key: str) -> dict[str, Any]:
        if bodies.get((kind, key)) is None:
            held = things.get((kind, key))
            empty: dict[str, Any] = {"items": {}, "structures": {"rows": []}, "plans": {"steps": []}}[kind]
            bodies[kind, key] = copy.deepcopy(held.body) if held else empty
        found = bodies[kind, key]
        assert found is not None
        return found

    for change in changes:
        if change.side != "theirs":
            continue
        # Of what is new there, only what is stated is said.
        after = {n: v for n, (_, v) in change.values.items() if change.verb == "change" or v not in (None, "", [])}
        said = in_their_words(look.words, change.kind, after)
        match change.kind:
            case "parts":
                number = change.record.number if change.record is not None else change.names["part"]
                body("items", number).update(said)
            case "sheets":
                key = key_of(change.names["parent"], change.names["alternate"])
                body("structures", key).update(said)
            case _:
                kind, name = _ROWS[change.kind]
                rows = body(kind, key_of(change.names["parent"], change.names["alternate"])).setdefault(name, [])
                _lay(look, rows, change, said)
    order = {"items": 0, "plans": 1, "structures": 2}
    return [
        Write(kind, key, held.version if (held := things.get((kind, key))) else None, book.as_held(of))
        for (kind, key), of in sorted(bodies.items(), key=lambda x: order[x[0][0]])
        if of is not None
    ]


def _lay(look: Look, rows: list[dict[str, Any]], change: Change, said: dict[str, Any]) -> None:
    """Lay a change of a line or an operation on the rows of its thing, in the order of their numbers."""
    known = look.theirs.keys.get(id(change.record)) if change.record is not None else None
    at = next((i for i, row in enumerate(rows) if str(row.get("id")) == known), None) if known else None
    if change.verb == "remove":
        if at is not None:
            del rows[at]
    elif at is not None:
        rows[at].update(said)
    else:
        ordered = "item" if change.kind == "lines" else "sequence"
        word = next((f.theirs for f in look.words.fields if f.table == change.kind and f.ours == ordered), None)
        number = _number(said.get(word)) if word else None
        after = [
            i for i, row in enumerate(rows) if word and number is not None and (n := _number(row.get(word))) is not None and n <= number
        ]
        rows.insert(after[-1] + 1 if after else (len(rows) if number is None else 0), said)


def _number(value: Any) -> int | None:
    return int(value) if str(value or "").isdecimal() else None
