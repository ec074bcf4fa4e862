"""A system of record over HTTP: things with an ETag each, in pages; several written together where it takes that, else one by one."""

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Any, TypeVar
from urllib.parse import quote

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from outside.calling import Caller, CallFailed, calling
from outside.records import FieldWord, Moved, Read, Refused, Thing, Trace, Words, Write
from outside.services import RecordService

__all__ = ["ByResources"]

#: Seconds for one answer (a whole handover may be one call), bytes of one, and codes that one call asks for.
_TIMEOUT, _MOST_BYTES, _AT_A_TIME = 20.0, 50_000_000, 100
#: Seconds for an answer that a person waits for.
_WAITED = 3.0
_KINDS = ("items", "structures", "plans")
_LONGEST_CODE = 20

T = TypeVar("T", bound=BaseModel)


class _Told(BaseModel):
    model_config = ConfigDict(extra="ignore")

    kind: str = Field(pattern="^(items|structures|plans)$")
    key: str = Field(min_length=1, max_length=200)
    version: int
    body: dict[str, Any]
    by: str = Field("", max_length=200)
    at: str = Field("", max_length=60)


class _Page(BaseModel):
    rows: list[_Told]
    next: str | None = None


class _Trace(BaseModel):
    kind: str = Field(max_length=40)
    key: str = Field(max_length=200)
    by: str = Field("", max_length=200)
    at: str = Field("", max_length=60)


class _Moved(BaseModel):
    rows: list[_Trace]


class _About(BaseModel):
    together: bool
    stamp: int


class ByResources:
    """See ``outside.records.Book``."""

    words = Words(
        fields=[
            FieldWord("parts", "description", "text"),
            FieldWord("parts", "kind", "supply"),
            FieldWord("parts", "unit", "measure"),
            FieldWord("parts", "lead_time_days", "days", "theirs"),
            FieldWord("parts", "material", "stuff"),
            FieldWord("parts", "mass_kg", "weight"),
            FieldWord("sheets", "batch", "lot"),
            FieldWord("lines", "item", "position"),
            FieldWord("lines", "part", "item"),
            FieldWord("lines", "kind", "sort"),
            FieldWord("lines", "quantity", "amount"),
            FieldWord("lines", "unit", "measure"),
            FieldWord("lines", "quantity_basis", "counted"),
            FieldWord("lines", "scrap_percent", "waste"),
            FieldWord("lines", "yield_percent", "good"),
            FieldWord("lines", "fixed_loss", "start_loss"),
            FieldWord("lines", "issue_at", "step"),
            FieldWord("lines", "option", "choice"),
            FieldWord("lines", "option_action", "choice_way"),
            FieldWord("lines", "reference_designators", "places"),
            FieldWord("lines", "not_fitted", "left_empty"),
            FieldWord("lines", "customer_supplied", "sent_in"),
            FieldWord("lines", "text", "note"),
            FieldWord("operations", "sequence", "number"),
            FieldWord("operations", "name", "title"),
            FieldWord("operations", "work_center", "station"),
            FieldWord("operations", "setup_minutes", "prepare"),
            FieldWord("operations", "run_minutes", "each"),
            FieldWord("operations", "run_basis", "each_for"),
            FieldWord("operations", "crew", "people"),
        ],
        values={
            "unit": {
                "ea": "piece",
                "pair": "pair",
                "dozen": "dozen",
                "hundred": "hundred",
                "kg": "kilo",
                "g": "gram",
                "mg": "milligram",
                "t": "tonne",
                "m": "metre",
                "mm": "millimetre",
                "cm": "centimetre",
                "m2": "square metre",
                "L": "litre",
                "mL": "millilitre",
                "h": "hour",
                "min": "minute",
            },
            "kind": {
                "made": "fabricated",
                "bought": "purchased",
                "phantom": "virtual",
                "component": "takes",
                "byproduct": "gives",
                "text": "says",
            },
        },
    )

    def __init__(self, service: RecordService) -> None:
        self._service = service

    @contextmanager
    def _calling(self, timeout: float | None = None) -> Iterator[Caller]:
        service = self._service
        with calling(service.address, key=service.key, timeout=timeout or _TIMEOUT, most=_MOST_BYTES) as caller:
            yield caller

    def read(self, top: str, codes: Iterable[str], goes_on: Callable[[int], None] = lambda done: None) -> Read:
        things: dict[tuple[str, str], Thing] = {}
        with self._calling() as caller:
            # The stamp first: what moves while the rest is read is seen as moved.
            stamp = _believed(_About, caller.call("GET", "v1/about")).stamp
            for kind in _KINDS if top else ():
                for thing in _pages(caller, kind, f"beneath={quote(top, safe='')}"):
                    things[thing.kind, thing.key] = thing
                goes_on(len(things))
            more = sorted({code for code in codes if ("items", code) not in things})
            for kind in _KINDS:
                for thing in _of_codes(caller, kind, more):
                    things[thing.kind, thing.key] = thing
                goes_on(len(things))
        return Read(list(things.values()), str(stamp))

    def these(self, keys: Sequence[tuple[str, str]]) -> list[Thing]:
        found: dict[tuple[str, str], Thing] = {}
        with self._calling() as caller:
            for kind in dict.fromkeys(kind for kind, _ in keys):
                codes = list(dict.fromkeys(key.partition("|")[0] for k, key in keys if k == kind))
                for thing in _of_codes(caller, kind, codes):
                    found[thing.kind, thing.key] = thing
        return [found[key] for key in keys if key in found]

    def moved(self, read: Read) -> list[Trace]:
        with self._calling() as caller:
            told = _believed(_Moved, caller.call("GET", f"v1/moved?since={quote(read.stamp, safe='')}"))
        return [Trace(r.kind, r.key, r.by, r.at) for r in told.rows if r.kind in _KINDS]

    def find(self, words: str) -> list[Thing]:
        with self._calling(_WAITED) as caller:
            page = _believed(_Page, caller.call("GET", f"v1/items?words={quote(words, safe='')}"))
            return [_thing(row) for row in page.rows[:20]]

    def wrong(self, kind: str, key: str, body: Mapping[str, Any]) -> list[tuple[str, str]]:
        if kind != "items":
            return []
        problems = []
        if not str(body.get("text") or "").strip():
            problems.append(("text", "a text is needed there"))
        if len(key) > _LONGEST_CODE:
            problems.append(("code", f"a number has at most {_LONGEST_CODE} characters there, and this one has {len(key)}"))
        return problems

    def as_held(self, body: Mapping[str, Any]) -> dict[str, Any]:
        return dict(body)

    def write(self, writes: Sequence[Write], by: str) -> None:
        said_by = {"X-For": by.encode("ascii", "replace").decode(), "Content-Type": "application/json"}
        with self._calling() as caller:
            if _believed(_About, caller.call("GET", "v1/about")).together:
                plain = [
                    {"kind": w.kind, "key": w.key, "match": None if w.version is None else int(w.version), "body": w.body} for w in writes
                ]
                _taken(*caller.once("POST", "v1/together", json.dumps(plain).encode(), said_by))
                return
            for w in writes:
                match = {} if w.version is None else {"If-Match": f'"{w.version}"'}
                content = None if w.body is None else json.dumps(w.body).encode()
                path = f"v1/{w.kind}/{quote(w.key, safe='')}"
                _taken(*caller.once("DELETE" if content is None else "PUT", path, content, said_by | match))


def _pages(caller: Caller, kind: str, asked: str) -> Iterator[Thing]:
    after = ""
    while True:
        said = caller.call("GET", f"v1/{kind}?{asked}&after={quote(after, safe='')}")
        page = _believed(_Page, said)
        yield from map(_thing, page.rows)
        if not page.next or page.next <= after:
            return
        after = page.next


def _of_codes(caller: Caller, kind: str, codes: Sequence[str]) -> Iterator[Thing]:
    for i in range(0, len(codes), _AT_A_TIME):
        # A comma within a code is its own, not one between two.
        listed = ",".join(quote(quote(code, safe=""), safe="") for code in codes[i : i + _AT_A_TIME])
        yield from _pages(caller, kind, f"codes={listed}")


def _thing(told: _Told) -> Thing:
    return Thing(told.kind, told.key, str(told.version), told.body, told.by, told.at)


def _believed(form: type[T], said: bytes | None) -> T:
    try:
        return form.model_validate_json(said or b"")
    except ValidationError:
        raise CallFailed("the records answered something else than was asked for") from None


def _taken(status: int, said: bytes) -> None:
    if status == 200:
        return
    if status not in (412, 422):
        raise CallFailed("the records do not take our account" if status in (401, 403) else f"the records answered {status}")
    try:
        told = json.loads(said)
        if status == 412:
            raise Moved([(str(kind), str(key)) for kind, key in told["moved"]])
        words = "; ".join(f"{p['key']}: {p['says']}".removeprefix(": ") for p in told["problems"][:10])
    except (ValueError, KeyError, TypeError, RecursionError):
        words = "they did not say why"
    raise Refused(f"the records refuse it: {words[:1000]}")
