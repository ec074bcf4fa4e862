"""Where a part is used: directly with its lines, and on all levels up to the tops, with quantities."""

from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import Option
from django.db import connection
from loading.columns import keys_text
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
    keys = loaded.part_ids.tolist()
    numbers, described, sheet_of, revisions = _words(keys, loaded.sheet_of)
    shown = np.arange(len(s.line))
    whole = len(shown) <= MOST_USES
    if not whole:
        shown = np.flatnonzero(s.child == row)
    is_used = np.zeros(len(keys), dtype=bool)
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


def _words(part_ids: list[int], sheet_of: dict[int, int]) -> tuple[list[str], list[str], list[int | None], list[str]]:
    """Over parts: number, description, sheet and the words for its revision. Arrays of text, since there may be many thousands.

    Raises TallyError where a part was taken away meanwhile.
    """
    sheets = [sheet_of.get(key) for key in part_ids]
    with connection.cursor() as cursor:
        cursor.execute(
            """SELECT array_agg(number ORDER BY id), array_agg(description ORDER BY id) FROM definition_part
            WHERE id = ANY(%s::bigint[])""",
            [keys_text(part_ids)],
        )
        numbers, described = (column or [] for column in cursor.fetchone())
        # Many thousand sheets are of few revisions.
        cursor.execute(
            """SELECT alternate, revision, status, array_agg(id) FROM definition_buildsheet
            WHERE id = ANY(%s::bigint[]) GROUP BY alternate, revision, status""",
            [keys_text(sheet_of.values())],
        )
        words = {
            key: revision_words(alternate, revision) + (", draft" if status == "draft" else "")
            for alternate, revision, status, held in cursor.fetchall()
            for key in held
        }
    if len(numbers) != len(part_ids):
        raise TallyError("Parts were changed while they were read; ask once more.")
    return numbers, described, sheets, [words.get(sheet or 0, "") for sheet in sheets]


def _options(basis: Basis) -> list[int]:
    return list(Option.objects.filter(code__in=basis.options).values_list("id", flat=True))
