"""Put moves into the ledger of stock, with what they are worth: the one way in which stock moves (rule W6)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

import numpy as np
from definition.models.parts import Part, StockMove, StockWorth, Workspace
from definition.records import prices_on
from django.utils.timezone import localdate, now
from loading.reads import load_products, structure_of
from loading.standards import read_standards
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.basics.kinds import PART_KIND
from tally_core.cost.answers import Basis
from tally_core.cost.cost import roll_up, standard_lots
from tally_core.shop.worth import Worth

from verbs.parts.move_lots import move_lots

__all__ = ["StockPost", "post_stock", "stated_worth"]

_NONE = Decimal(0)
#: What is read of a part: it may be a long row.
_NEEDED = ("number", "unit", "kind", "whole_only", "prices", "unit_cost", "overhead_percent")


@dataclass(frozen=True, slots=True)
class StockPost:
    """One move that is to be: quantity in the part's stock unit, negative when it leaves. ``cost``: of what comes in, by element; without
    it, it is worth what is there, or what the part is stated to cost. A cost without a quantity changes the worth of what is there. Where the
    workspace has stock stand at standard, a part that has one is worth that, and what it cost beyond stands with the move.
    ``place``: where a problem with it is said.
    """

    part: int
    quantity: Decimal
    reason: str
    cost: dict[str, Decimal] | None = None
    place: str = ""
    # Of a part whose stock is told apart: lots or serial numbers, and how much of each; and what new ones are called after.
    codes: tuple[tuple[str, Decimal], ...] = ()
    origin: str = ""


def post_stock(by: str, posts: Sequence[StockPost], at: datetime | None = None) -> list[StockMove]:
    """Make the moves, in their order, within the caller's transaction; the parts are held, in the order of their keys. A fixed number of queries.

    Raises ProblemsError for every move of which not so many are there.
    """
    keys = sorted({post.part for post in posts})
    if not keys:
        return []
    parts = {p.pk: p for p in Part.objects.select_for_update(no_key=True).filter(pk__in=keys).only(*_NEEDED).order_by("pk")}
    rows = StockWorth.objects.in_bulk(keys)
    held = {key: _held(rows.get(key)) for key in keys}
    standards = _standards(keys) if Workspace.the().stock_at == "standard" else {}
    unknown = {p.part for p in posts if p.quantity > 0 and p.cost is None and not held[p.part].quantity and p.part not in standards}
    stated = stated_worth([parts[key] for key in unknown], localdate(at) if at else localdate())
    moves, problems = [], []

    def move(post: StockPost, quantity: Decimal, moved: dict[str, Decimal], reason: str, beyond: Decimal = _NONE) -> StockMove:
        texts = {name: f"{amount:f}" for name, amount in moved.items()}
        value = sum(moved.values(), _NONE)
        return StockMove(
            part=parts[post.part],
            quantity=quantity,
            value=value,
            elements=texts,
            beyond=beyond,
            reason=reason,
            made_by=by,
            made_at=at or now(),
        )

    revalued = []
    for key, price in standards.items():
        moved = held[key].stand_at(price)
        if moved:
            revalued.append(move(StockPost(key, _NONE, ""), _NONE, moved, "to its standard"))
    for post in posts:
        worth, part = held[post.part], parts[post.part]
        if -post.quantity > worth.quantity:
            problems.append(Problem(post.place, f"only {worth.quantity.normalize():f} {part.unit} of {part.number} are on hand"))
        elif post.quantity < 0:
            gone = worth.take(-post.quantity)
            moves.append(move(post, post.quantity, {name: -amount for name, amount in gone.items()}, post.reason))
        else:
            standard = standards.get(post.part)
            each = standard or worth.mean() or stated.get(post.part, {})
            cost = {n: post.quantity * a for n, a in each.items()} if post.cost is None or standard is not None else post.cost
            came = worth.put(post.quantity, cost)
            beyond = sum((post.cost or came).values(), _NONE) - sum(came.values(), _NONE)
            moves.append(move(post, post.quantity, came, post.reason, round(beyond, 9)))
    if problems:
        raise ProblemsError(problems)
    StockMove.objects.bulk_create(revalued)
    StockMove.objects.bulk_create(moves)
    move_lots([(m, post.codes, post.origin, post.place) for m, post in zip(moves, posts, strict=True)], parts)
    StockWorth.objects.bulk_create(
        [
            StockWorth(part_id=key, quantity=w.quantity, elements={n: f"{a:f}" for n, a in w.elements.items() if a})
            for key, w in held.items()
        ],
        update_conflicts=True,
        unique_fields=["part"],
        update_fields=["quantity", "elements"],
    )
    return moves


def _standards(keys: Sequence[int]) -> dict[int, dict[str, Decimal]]:
    """The newest standard of each part that has one, by element."""
    read = read_standards(None, np.array(list(keys), dtype=np.int64))
    rows = zip(read.part.tolist(), read.elements.tolist(), strict=True)
    return {key: {name: Decimal(a) / 10**6 for name, a in zip(ELEMENTS, row, strict=True) if a} for key, row in rows}


def _held(row: StockWorth | None) -> Worth:
    if row is None:
        return Worth()
    return Worth(row.quantity, {name: Decimal(text) for name, text in row.elements.items()})


def stated_worth(parts: Sequence[Part], day: date) -> dict[int, dict[str, Decimal]]:
    """What one of some parts is stated to cost on a day, by element and by key: its standard, else the price of the day with the overhead on it,
    else what its sheet rolls up to at its costing lot.

    A part of which none is known is worth nothing.
    """
    if not parts:
        return {}
    found = _standards(sorted(p.pk for p in parts))
    rest = [part for part in parts if part.pk not in found]
    for part in rest:
        priced_as = PART_KIND[part.kind].priced_as
        text = prices_on(day, part.prices)
        price = Decimal(text) if text is not None else part.unit_cost
        if priced_as and price is not None:
            found[part.pk] = {priced_as: price}
            if part.overhead_percent:
                found[part.pk]["overhead"] = price * part.overhead_percent / 100
    return found | _rolled_up([part for part in rest if not PART_KIND[part.kind].priced_as], day)


def _rolled_up(parts: Sequence[Part], day: date) -> dict[int, dict[str, Decimal]]:
    """What sheets come to; nothing for a part without one in force, or where they do not add up: that is for the findings to say."""
    if not parts:
        return {}
    try:
        loaded = load_products(list(parts), Basis(day))
        s = structure_of(loaded, ())
        unit = roll_up(s, standard_lots(s)).unit
    except TallyError:
        return {}
    rows = {part.pk: loaded.row(part.pk) for part in parts}
    return {
        key: {name: round(Decimal(repr(float(a))), 9) for name, a in zip(ELEMENTS, unit[row], strict=True) if a}
        for key, row in rows.items()
        if np.isfinite(s.parts.batch[row])
    }
