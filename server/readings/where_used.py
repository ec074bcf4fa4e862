"""Where a part is used: directly with its lines, and on all levels up to the tops, with quantities."""

from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import Option
from loading.columns import wire_cursor
from loading.loaded import CHANGED
from loading.reads import load_users
from tally_core.basics.errors import TallyError
from tally_core.basics.units import SYMBOLS
from tally_core.cost.answers import Basis
from tally_core.cost.cost import standard_lots
from tally_core.structure.needs import uses_of
from tally_core.structure.structure import build_structure

from readings.sheet_view import options_of
from readings.survey import revision_words
from readings.wire import keys_hex, shortened, table

__all__ = ["where_used"]

#: Beyond so many lines nobody reads the way up line by line; the sums still hold for all of it.
MOST_USES = 20_000


def where_used(part: Part, basis: Basis) -> dict[str, Any]:
    """The users of a part as plain values.

    ``parts`` and ``uses`` are tables (:mod:`readings.wire`). ``uses`` are the lines on the way, or when they are very many only those that take the part itself (``whole`` False): each names its user and
    what it takes by index into ``parts``. A part's ``taken`` is how much of the part asked about stands in one of it, all paths together, at its costing lot; ``top`` says that
    nothing takes it in turn. Lines of options count when the basis has the option. Seven queries, whatever their number.
    """
    loaded = load_users(part, basis)
    chosen = _options(basis)
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, basis.as_of, chosen)
    lots = standard_lots(s)
    row = loaded.row(part.id)
    taken, distance = uses_of(s, row, lots)
    numbers, described, sheet_of, revisions = _words(loaded.part_ids, loaded.sheet_of)
    shown = np.arange(len(s.line))
    whole = len(shown) <= MOST_USES
    if not whole:
        shown = np.flatnonzero(s.child == row)
    is_used = np.zeros(len(s.parts), dtype=bool)
    is_used[s.child[~s.byproduct]] = True
    line = s.line[shown]
    return {
        "as_of": basis.as_of.isoformat(),
        "currency": loaded.currency,
        "options": options_of(loaded),
        "description": described[row],
        "part": row,
        "whole": whole,
        "unit": SYMBOLS[s.parts.unit[row]],
        "parts": _table(
            {
                "number": numbers,
                "description": described,
                "unit": [SYMBOLS[unit] for unit in s.parts.unit.tolist()],
                "sheet": sheet_of,
                "revision": revisions,
            },
            {"taken": np.round(taken, 9), "levels": distance, "top": ~is_used},
        ),
        "uses": _table(
            {"line": keys_hex(loaded.line_ids[line]), "item": [item or None for item in loaded.lines.item[line].tolist()]},
            {
                "user": s.parent[shown],
                "takes": s.child[shown],
                "quantity": np.round(s.gross(lots)[shown], 9),
                "by_product": s.byproduct[shown],
            },
        ),
    }


def _table(words: dict[str, list[Any]], numbers: dict[str, np.ndarray]) -> dict[str, Any]:
    return shortened(table(words, {"each": numbers, "elements": {}}))


def _words(part_ids: np.ndarray, sheet_of: dict[int, int]) -> tuple[list[str], list[str], list[int | None], list[str]]:
    """Over parts: number, description, sheet and the words for its revision. Arrays of text, since there may be many thousands.

    Raises TallyError where a part was taken away meanwhile.
    """
    # Ascending, as they were read.
    sheets = np.fromiter(sheet_of.values(), dtype=np.int64, count=len(sheet_of))
    with wire_cursor() as cursor:
        cursor.execute(
            """SELECT array_agg(number), array_agg(description)
            FROM (SELECT number, description FROM definition_part WHERE id = ANY(%s::bigint[]) ORDER BY id) AS part""",
            [part_ids],
            binary=True,
        )
        numbers, described = (column or [] for column in cursor.fetchone() or ((), ()))
        # Many thousand sheets are of few revisions.
        cursor.execute(
            """SELECT alternate, revision, status, string_agg(int8send(id), ''::bytea) FROM definition_buildsheet
            WHERE id = ANY(%s::bigint[]) GROUP BY alternate, revision, status""",
            [sheets],
            binary=True,
        )
        words = np.full(len(sheets), "", dtype=object)
        for alternate, revision, status, held in cursor.fetchall():
            at = np.searchsorted(sheets, np.frombuffer(held, dtype=">i8").astype(np.int64))
            words[at] = revision_words(alternate, revision) + (", draft" if status == "draft" else "")
    if len(numbers) != len(part_ids):
        raise TallyError(CHANGED)
    made = np.searchsorted(part_ids, np.fromiter(sheet_of, dtype=np.int64, count=len(sheet_of)))
    of_part, revisions = np.full(len(part_ids), None, dtype=object), np.full(len(part_ids), "", dtype=object)
    of_part[made], revisions[made] = sheets, words
    return numbers, described, of_part.tolist(), revisions.tolist()


def _options(basis: Basis) -> list[int]:
    return list(Option.objects.filter(code__in=basis.options).values_list("id", flat=True))
