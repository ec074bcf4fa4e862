"""What stands beside a line: what both texts say, field by field, who it could be, and what was decided and asked about it."""

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from definition.models.parts import MakerNumber, Part
from django.conf import settings
from django.db.models import Q, Sum
from readings.found_parts import looked_through
from readings.pairing import texts_of
from tally_core.basics.errors import MissingError
from tally_core.inquiries.line import FIELDS, InquiryLine, in_short
from tally_core.pairing.compare import AGREES, MEETS, compare
from tally_core.pairing.describe import Described, describe
from tally_core.pairing.kinds import KINDS
from tally_core.pairing.numbers import fold

from inquiries.lines import core_line, counting
from inquiries.models import Inquiry, ListLine, NumberData

__all__ = ["evidence_of", "like"]

#: Parts shown, and looked through for their values, at most.
_FOUND, _LOOKED_THROUGH = 12, 600


def _line(inquiry: Inquiry, line_id: int) -> ListLine:
    line = counting(inquiry).select_related("part").filter(pk=line_id).first()
    if line is None:
        raise MissingError("This line is no longer there.")
    return line


def evidence_of(inquiry: Inquiry, line_id: int) -> dict[str, Any]:
    """Everything that stands beside one line. A fixed number of queries."""
    line = _line(inquiry, line_id)
    said = core_line(line)
    read = describe(said.words)
    numbers = [p["part"] for p in line.proposals if p["part"] not in line.refused]
    if line.part is not None and line.part.number not in numbers:
        numbers.insert(0, line.part.number)
    roads = {p["part"]: p for p in line.proposals}
    parts = {p.number: p for p in Part.objects.filter(number__in=numbers)}
    shown = _parts(said, [parts[n] for n in numbers if n in parts])
    for entry in shown:
        proposal = roads.get(entry["part"], {})
        held = line.part is not None and entry["part"] == line.part.number
        entry["road"] = line.road if held else proposal.get("road", "")
        entry["certain"] = bool(proposal.get("certain"))
    spans = [
        {"start": s.start, "end": s.end, "field": n.replace("_", " ")} for n, s in read.fields.items() if s.end <= len(said.description)
    ]
    return {
        "line": line.pk,
        "stamp": line.stamp,
        "texts": [
            {
                "field": name,
                "word": word,
                "text": _plain(line.as_mended().get(name)),
                "own": _plain(line.said.get(name)) if name in line.mended else None,
            }
            for name, word in FIELDS.items()
            if _plain(line.as_mended().get(name)) or name in line.mended
        ]
        + [
            {"field": "own_fields", "word": name.replace("_", " "), "text": text, "own": None}
            for name, text in sorted(said.own_fields.items())
        ],
        "spans": sorted(spans, key=lambda s: s["start"]),
        "kind": read.kind,
        "proposals": shown,
        "refused": line.refused,
        "layout": line.layout,
        "data": _data(said.maker_number),
        "questions": [
            {n: getattr(q, n) for n in ("id", "about", "field", "text", "asked_by", "answer")} | {"asked_at": q.asked_at.isoformat()}
            for q in line.questions.all()
        ],
        "decisions": [
            {
                "verb": d.verb,
                "words": d.words,
                "part": d.after.get("part") or "",
                "by": d.by,
                "at": d.at.isoformat(),
                "back": d.taken_back_at is not None,
                "batch": d.batch,
            }
            for d in line.decisions.all()[:20]
        ],
    }


def _data(maker_number: str) -> dict[str, str] | None:
    """What parts data say of a maker's number, in words; None where the line has none or nothing could be asked."""
    if not maker_number or not settings.PARTS_DATA:
        return None
    held = NumberData.objects.filter(folded=fold(maker_number)[:200]).first()
    if held is None:
        return {"words": "not asked yet", "description": "", "day": ""}
    told = held.data
    words = [told.get("lifecycle", ""), told.get("case", ""), f"then {told['replacement']}" if told.get("replacement") else ""]
    return {
        "words": ", ".join(filter(None, words)) if told else "not known there",
        "description": told.get("description", ""),
        "day": held.asked_at.date().isoformat(),
    }


def _plain(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else ""
    return in_short(value) if isinstance(value, list) else "" if value is None else str(value)


def _parts(said: InquiryLine, parts: list[Part]) -> list[dict[str, Any]]:
    """Parts with what each field of the line's text meets there, in the words of both texts."""
    keys = [p.pk for p in parts]
    texts = texts_of(parts)
    stock = dict(Part.objects.filter(pk__in=keys).annotate(there=Sum("moves__quantity")).values_list("pk", "there"))
    makers: dict[int, list[tuple[str, str]]] = defaultdict(list)
    for key, maker_id, number in MakerNumber.objects.filter(part__in=keys).values_list("part", "maker", "number"):
        makers[key].append((str(maker_id or ""), number))
    asked, near = describe(said.words), fold(said.maker_number or said.part)[:6]
    shown = []
    for part in parts:
        ours = describe(texts[part.pk])
        # The number nearest to the one that was asked for stands first.
        named = sorted(makers[part.pk], key=lambda m: fold(m[1])[:6] != near)
        maker, number = named[0] if named else ("", "")
        shown.append(
            {
                "part": part.number,
                "description": part.description,
                "kind": part.kind,
                "lifecycle": part.lifecycle,
                "on_stock": (stock.get(part.pk) or 0) > 0,
                "maker": maker,
                "maker_number": number,
                "ledger": [
                    {
                        "field": n.replace("_", " "),
                        "theirs": _words(said.words, asked, n),
                        "ours": _words(texts[part.pk], ours, n),
                        "verdict": v,
                    }
                    for n, v in compare(asked, ours).items()
                ],
            }
        )
    return shown


def _words(text: str, described: Described, name: str) -> str:
    if name == "kind":
        return described.kind
    at = described.fields.get(name)
    return text[at.start : at.end].strip() if at else ""


def like(inquiry: Inquiry, line_id: int, search: str, costs: bool) -> list[dict[str, Any]]:
    """Parts of ours that some words find, each held against the line; for choosing by hand.

    Words that state a value of the line's kind are read as that value: a part must state it, or a better one, however it writes it.
    """
    said = core_line(_line(inquiry, line_id))
    kind = describe(said.words).kind
    wanted = describe(f"{kind} {search}") if kind else Described()
    rest = search
    for at in sorted((s for s in wanted.fields.values()), key=lambda s: -s.start):
        begin = max(0, at.start - len(kind) - 1)
        rest = rest[:begin] + " " + rest[max(0, at.end - len(kind) - 1) :]
    rows, column = looked_through(Part.objects.exclude(kind="charge"), costs)
    if wanted.fields:
        rows = rows.filter(said__kind=kind)
        main = wanted.fields.get(KINDS[kind].main)
        if main is not None:
            rows = rows.filter(said__main=str(main.value))
    words: Iterable[str] = rest.upper().replace("\x00", "").split()[:8]
    for word in words:
        rows = rows.filter(Q(**{f"{column}__contains": word}) | Q(maker_numbers__number__icontains=word)).distinct()
    found = list(rows.order_by("lifecycle", "number")[: _LOOKED_THROUGH if wanted.fields else _FOUND])
    if wanted.fields:
        texts = texts_of(found)
        found = [p for p in found if not _lacks(wanted, describe(texts[p.pk]))][:_FOUND]
    return [entry | {"road": "by hand", "certain": False} for entry in _parts(said, found)]


def _lacks(wanted: Described, ours: Described) -> bool:
    verdicts = compare(wanted, ours)
    return any(verdicts.get(n) not in (AGREES, MEETS) for n in wanted.fields)
