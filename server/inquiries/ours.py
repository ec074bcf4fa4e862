"""Our parts as lines find their like among them: read once, kept in columns, and fetched only as far as some lines need them."""

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping
from decimal import Decimal
from hashlib import blake2b
from typing import Any

from definition.models.parts import MakerNumber, Part, StockMove
from django.db import connection, transaction
from django.db.models import Sum
from jobs.locks import OUR_PARTS
from readings.pairing import texts_of
from tally_core.pairing.describe import Described, Said, describe
from tally_core.pairing.kinds import FIELDS, KINDS
from tally_core.pairing.numbers import asked_keys, fold, kept_keys, learn_suffixes
from tally_core.pairing.propose import OFTEN, RAREST_WORDS, Asked, Often, Ours, Shelf, words_of

from inquiries.models import PartNumber, PartSaid, RememberedPair

__all__ = ["bring_up", "shelf_for"]

_AT_ONCE = 4000
#: So many of the pairs agreed last tell which suffixes a maker has.
_LEARNED_FROM = 5000
#: What a part's texts and numbers are, in one word; whatever changed them, it is another then.
_SIGNATURES = """
    SELECT p.id, md5(concat_ws('|', p.number, p.description, p.second_description, p.material, m.numbers)) AS signature
    FROM definition_part p
    LEFT JOIN (SELECT part_id, string_agg(concat_ws('~', maker, number, package, rank), '|' ORDER BY rank, id) AS numbers
               FROM definition_makernumber GROUP BY part_id) m ON m.part_id = p.id
    WHERE p.kind NOT IN ('charge', 'phantom')
"""


def bring_up(tell: Callable[[int, int], None] = lambda done, of: None) -> int:
    """Read anew what parts say whose texts or numbers changed since; answers how many. ``tell`` is told how far it is.

    One query finds them, whoever changed what.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT s.id, s.signature FROM ({_SIGNATURES}) s LEFT JOIN inquiries_partsaid k ON k.part_id = s.id "
            "WHERE k.signature IS DISTINCT FROM s.signature"
        )
        stale: dict[int, str] = dict(cursor.fetchall())
    keys = sorted(stale)
    for begin in range(0, len(keys), _AT_ONCE):
        tell(begin, len(keys))
        _read(keys[begin : begin + _AT_ONCE], stale)
    if stale:
        PartSaid.objects.filter(part__kind__in=("charge", "phantom")).delete()
        PartNumber.objects.filter(part__kind__in=("charge", "phantom")).delete()
    return len(stale)


def _read(keys: list[int], signatures: Mapping[int, str]) -> None:
    parts = list(Part.objects.filter(pk__in=keys).only("id", "number", "description", "second_description", "material"))
    texts = texts_of(parts)
    makers: dict[int, list[tuple[str, str, int]]] = defaultdict(list)
    rows = MakerNumber.objects.filter(part__in=keys).order_by("rank", "id")
    for key, maker_name, number, rank in rows.values_list("part", "maker", "number", "rank"):
        makers[key].append((str(maker_name or ""), number, rank))
    said, numbers = [], []
    for part in parts:
        found = describe(texts[part.pk])
        main = found.fields.get(KINDS[found.kind].main) if found.kind else None
        said.append(
            PartSaid(
                part=part,
                signature=signatures[part.pk],
                texts=texts[part.pk],
                kind=found.kind,
                main="" if main is None else str(main.value),
                fields={n: str(s.value) for n, s in found.fields.items()},
                words=sorted(words_of(texts[part.pk])) if main is None else [],
            )
        )
        for maker, number, rank in (("", part.number, 0), *makers[part.pk]):
            if folded := fold(number):
                numbers.append(PartNumber(part=part, folded=folded, maker=maker, rank=rank, keys=_hashes(kept_keys(folded))))
    with transaction.atomic(), connection.cursor() as cursor:
        # Two who read the same parts at once would both write them.
        cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [OUR_PARTS])
        PartNumber.objects.filter(part__in=keys).delete()
        PartNumber.objects.bulk_create(numbers, batch_size=5000)
        PartSaid.objects.filter(part__in=keys).delete()
        PartSaid.objects.bulk_create(said, batch_size=2000)


def shelf_for(asked: Iterable[Asked], remembered: Mapping[str, str] | None = None) -> Shelf:
    """The parts that some lines may be, laid out; what stands how often is counted over all. A fixed number of queries.

    Args:
        remembered: a sender's number, folded → our part that it was paired with before.
    """
    asked = list(asked)
    folded = {f for a in asked for f in (fold(a.number), fold(a.maker_number)) if f}
    described = [describe(a.description) for a in asked]
    mains = {(d.kind, str(d.fields[KINDS[d.kind].main].value)) for d in described if d.kind and KINDS[d.kind].main in d.fields}
    words = {
        w for a, d in zip(asked, described, strict=True) if not (d.kind and KINDS[d.kind].main in d.fields) for w in words_of(a.description)
    }
    known = {folded_number: remembered[folded_number] for folded_number in folded & set(remembered or {})} if remembered else {}
    timeswords = _timeswords(words)
    suffixes = _suffixes()
    rarest = [_rarest(a, d, timeswords) for a, d in zip(asked, described, strict=True)]
    keys = _candidates(folded, mains, rarest, known, {s for of in suffixes.values() for s in of})
    return Shelf(_ours(keys), known, _often({d.kind for d in described if d.kind}, timeswords), suffixes)


def _hashes(keys: Iterable[str]) -> list[int]:
    """Keys as the numbers under which they are kept; two that meet in one only cost a look."""
    return [int.from_bytes(blake2b(k.encode(), digest_size=8).digest(), "big", signed=True) for k in sorted(keys)]


def _suffixes() -> dict[str, frozenset[str]]:
    """What is known of makers' suffixes from the pairs that were agreed last, whoever's list it was (P1). Two queries."""
    told = [
        (part, fold(said.get("maker") or ""), said["maker_number"])
        for part, said in RememberedPair.objects.filter(told__maker_number__gt="")
        .order_by("-decided_at")
        .values_list("part", "told")[:_LEARNED_FROM]
    ]
    ours: dict[int, list[tuple[str, str]]] = defaultdict(list)
    rows = MakerNumber.objects.filter(part__in={part for part, _, _ in told}).exclude(maker=None)
    for part, maker, number in rows.values_list("part", "maker", "number"):
        ours[part].append((str(maker), number))
    return learn_suffixes(
        (maker, theirs, number) for part, said, theirs in told for maker, number in ours[part] if not said or said == fold(maker)
    )


def _rarest(asked: Asked, said: Described, often: Mapping[str, int]) -> list[str]:
    """The words by which a line without a main value looks for its like."""
    if said.kind and KINDS[said.kind].main in said.fields:
        return []
    rare = sorted((often[w], w) for w in words_of(asked.description) if w in often)
    return [w for times, w in rare[:RAREST_WORDS] if times <= OFTEN]


def _candidates(
    folded: set[str], mains: set[tuple[str, str]], words: list[list[str]], known: Mapping[str, str], known_suffixes: Collection[str]
) -> list[int]:
    rare = sorted({w for some in words for w in some})
    asked = ["{" + ",".join(map(str, _hashes(keys))) + "}" for number in folded if (keys := asked_keys(number, known_suffixes))]
    with transaction.atomic(), connection.cursor() as cursor:
        # How many numbers share a key is guessed far too high, and the statement compiled for longer than it runs.
        cursor.execute("SET LOCAL jit = off")
        cursor.execute(
            "SELECT part_id FROM inquiries_partnumber WHERE folded = ANY(%(folded)s) UNION "
            "SELECT n.part_id FROM unnest(%(asked)s::text[]) a(keys) JOIN inquiries_partnumber n ON n.keys && a.keys::bigint[] UNION "
            "SELECT s.part_id FROM unnest(%(kinds)s::text[], %(values)s::text[]) m(kind, main) "
            "JOIN inquiries_partsaid s ON s.kind = m.kind AND s.main = m.main UNION "
            "SELECT s.part_id FROM unnest(%(rare)s::text[]) w(word) JOIN inquiries_partsaid s ON s.words @> ARRAY[w.word] UNION "
            "SELECT id FROM definition_part WHERE number = ANY(%(known)s)",
            {
                "folded": sorted(folded),
                "asked": asked,
                "kinds": [k for k, _ in sorted(mains)],
                "values": [v for _, v in sorted(mains)],
                "rare": rare,
                "known": sorted(set(known.values())),
            },
        )
        return [key for (key,) in cursor.fetchall()]


def _timeswords(words: set[str]) -> dict[str, int]:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT w.word, count(*) FROM unnest(%s::text[]) w(word) JOIN inquiries_partsaid s ON s.words @> ARRAY[w.word] GROUP BY 1",
            [sorted(words)],
        )
        return dict(cursor.fetchall())


def _often(kinds: set[str], words: Mapping[str, int]) -> Often:
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM inquiries_partsaid")
        count = cursor.fetchone()[0]
        cursor.execute(
            "SELECT s.kind, f.key, f.value, count(*) FROM inquiries_partsaid s, jsonb_each_text(s.fields) f WHERE s.kind = ANY(%s) GROUP BY 1, 2, 3",
            [sorted(kinds)],
        )
        return Often(count, {(k, n, _value(n, v)): c for k, n, v, c in cursor.fetchall()}, words)


def _value(name: str, text: str) -> Decimal | str:
    return Decimal(text) if FIELDS[name].unit else text


def _ours(keys: list[int]) -> Iterable[Ours]:
    moves = StockMove.objects.filter(part__in=keys).order_by().values_list("part").annotate(total=Sum("quantity"))
    stock = {k for k, t in moves if t > 0}
    makers: dict[int, list[tuple[str, str, int]]] = defaultdict(list)
    rows = MakerNumber.objects.filter(part__in=keys).order_by("rank", "id")
    for key, maker, number, rank in rows.values_list("part", "maker", "number", "rank"):
        makers[key].append((str(maker or ""), number, rank))
    found: Any = PartSaid.objects.filter(part__in=keys).values_list("part", "part__number", "part__lifecycle", "texts", "kind", "fields")
    for key, number, lifecycle, texts, kind, fields in found:
        said = Described(kind, {n: Said(_value(n, v), 0, 0) for n, v in fields.items() if n in FIELDS})
        yield Ours(number, texts, makers[key], lifecycle, key in stock, said)
