"""Fill an empty database with the demo."""

from collections.abc import Sequence
from datetime import date, timedelta

from accounts.access import GROUPS, make_groups
from definition.models.parts import Part
from django.contrib.auth.models import Group, User
from django.db import transaction
from django.utils.timezone import localdate, now
from geometry.actions.take_model import take_model
from rounds.actions.accept_round import run_accept
from rounds.actions.open_round import open_round
from rounds.actions.propose import Selection, propose, propose_percent
from rounds.actions.tally_round import run_tally
from rounds.jobs import begin
from standards.models import Round
from substitution.actions.keep_table import keep_table
from verbs.parts.move_stock import move_stock
from verbs.parts.save_maker_numbers import save_maker_numbers
from verbs.parts.take_open_orders import take_open_orders
from verbs.sheets.load_bundle import load_bundle
from verbs.work_centers.take_finished_work import take_finished_work

from demo.buying import load_buying
from demo.cutting import load_cutting
from demo.definition import demo_bundle
from demo.inquiries import load_inquiries
from demo.shapes import demo_models
from demo.shop import load_orders
from demo.tables import FINISHED, FIRST_ROUND, MAKERS, NEXT_ROUND, OPEN_ORDERS, STOCK, SUBSTITUTES

__all__ = ["PASSWORD", "load_demo"]

PASSWORD = "harbour-light"
_PEOPLE = {
    "engineer": ("Mara", "Tolliver"),
    "accountant": ("Ines", "Hartwell"),
    "buyer": ("Piet", "Brandow"),
    "shop": ("Lou", "Fenner"),
    "viewer": ("Sam", "Quill"),
    "administrator": ("Edda", "Larch"),
}


def load_demo(orders: bool = False) -> bool:
    """Make the demo's people and parts; False when they are there already, and then nothing is changed.

    ``orders``: with three months of work orders, which take some seconds.
    """
    with transaction.atomic():
        make_groups()
        for name in GROUPS:
            if not User.objects.filter(username=name).exists():
                first, last = _PEOPLE[name]
                user = User.objects.create_user(name, password=PASSWORD, first_name=first, last_name=last)
                user.groups.add(Group.objects.get(name=name))
        if Part.objects.filter(number="HL-155").exists():
            return False
        engineer, shop = (User.objects.get(username=name) for name in ("engineer", "shop"))
        load_bundle(demo_bundle(), "demo", engineer)
        for number, rows in MAKERS.items():
            save_maker_numbers(engineer, number, [dict(zip(("maker", "number", "package"), r, strict=True)) for r in rows])
        for stocked, counted in STOCK.items():
            _stock(shop, stocked, counted)
        take_finished_work(shop, _finished())
        due = [(order, part, open_, (localdate() + timedelta(days=days)).isoformat()) for order, part, open_, days in OPEN_ORDERS]
        take_open_orders(User.objects.get(username="buyer"), [["order", "part", "open", "due"], *map(list, due)])
        _rounds(engineer, User.objects.get(username="accountant"))
        load_inquiries(engineer)
        load_cutting(engineer, shop)
        for modelled, file, content in demo_models():
            take_model(engineer, modelled, [(file, content)])
        keep_table(engineer, None, None, "Generic hardware", [{"code": c, "part": p, "note": n} for c, p, n in SUBSTITUTES])
        if orders:
            load_orders(engineer, shop)
        load_buying(User.objects.get(username="buyer"), engineer)
        return True


def _rounds(engineer: User, accountant: User) -> None:
    """The standards in force, accepted eleven weeks ago, and a round that is open for the first day of next year."""
    since = localdate() - timedelta(days=77)
    first = open_round(accountant, {"name": "Autumn standards", "first_day": since.isoformat(), "scope": "all"})
    _propose(accountant, first, FIRST_ROUND)
    _tally(first, accountant)
    first.refresh_from_db()
    run_accept.call(first.pk, _begin(first, "accepting", accountant), accountant.pk, first.version)
    at = now() - timedelta(days=77)
    Round.objects.filter(pk=first.pk).update(opened_at=at - timedelta(days=5), closed_at=at)
    new_year = date(localdate().year + 1, 1, 1)
    following = open_round(
        engineer, {"name": f"Standards {new_year.year}", "first_day": new_year.isoformat(), "note": "metal offers for the year"}
    )
    propose_percent(engineer, following.pk, "part", "unit_cost", "6", Selection(part_class="bar and sheet"))
    _propose(engineer, following, NEXT_ROUND)
    _tally(following, engineer)


def _propose(user: User, the_round: Round, rows: Sequence[tuple[str, ...]]) -> None:
    propose(user, the_round.pk, [dict(zip(("table", "key", "field", "value"), row, strict=True)) for row in rows])


def _begin(the_round: Round, what: str, user: User) -> int:
    with transaction.atomic():
        return begin(the_round, what, str(user)).pk


def _tally(the_round: Round, user: User) -> None:
    run_tally.call(the_round.pk, _begin(the_round, "the tally of", user), str(user))


def _finished() -> list[list[str]]:
    """Finished orders, the last one a few days ago; no two went alike."""
    rows = [["order", "part", "operation", "quantity", "run minutes", "set-up minutes", "finished"]]
    for part, sequence, each, orders in FINISHED:
        for n, units in enumerate(orders):
            day = localdate() - timedelta(days=4 + 9 * n)
            minutes = units * each * (1 + ((n * 7 + sequence) % 11 - 5) / 60)
            rows.append([f"WO-{4100 - 3 * n}", part, str(sequence), str(units), f"{minutes:.1f}", str(10 + n % 4), day.isoformat()])
    return rows


def _stock(shop: User, number: str, first: int) -> None:
    """Three months of moves: counted, issued each fortnight, received when it ran low."""
    moves = [(91, first, "counted")]
    issue, there = max(1, first // 7), first
    for week in range(12, 0, -2):
        moves.append((week * 7, -issue, "issued"))
        there -= issue
        if there < first // 2:
            moves.append((week * 7 - 3, first // 2, "received"))
            there += first // 2
    for days, quantity, reason in moves:
        move = move_stock(shop, number, str(quantity), reason)
        type(move).objects.filter(pk=move.pk).update(made_at=now() - timedelta(days=days))
