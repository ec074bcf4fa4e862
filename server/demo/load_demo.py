"""Fill an empty database with the demo."""

from datetime import timedelta

from accounts.access import GROUPS, make_groups
from django.contrib.auth.models import Group, User
from django.db import transaction
from django.utils.timezone import localdate, now
from parts.actions.move_stock import move_stock
from parts.actions.save_maker_numbers import save_maker_numbers
from parts.models import Part
from sheets.actions.load_bundle import load_bundle
from workcenters.actions.take_finished_work import take_finished_work

from .definition import FINISHED, MAKERS, STOCK, demo_bundle

__all__ = ["PASSWORD", "load_demo"]

PASSWORD = "harbour-light"
_PEOPLE = {
    "engineer": ("Mara", "Tolliver"), "accountant": ("Ines", "Hartwell"), "buyer": ("Piet", "Brandow"),
    "shop": ("Lou", "Fenner"), "viewer": ("Sam", "Quill"),
}  # fmt: skip


def load_demo() -> bool:
    """Make the demo's people and parts; False when they are there already, and then nothing is changed."""
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
            save_maker_numbers(
                engineer, number, [dict(zip(("maker", "number", "package"), r, strict=True)) for r in rows]
            )
        for stocked, counted in STOCK.items():
            _stock(shop, stocked, counted)
        take_finished_work(shop, _finished())
        return True


def _finished() -> list[list[str]]:
    """Finished orders, the last one a few days ago; no two went alike."""
    rows = [["order", "part", "operation", "quantity", "run minutes", "set-up minutes", "finished"]]
    for part, sequence, each, orders in FINISHED:
        for n, units in enumerate(orders):
            day = localdate() - timedelta(days=4 + 9 * n)
            minutes = units * each * (1 + ((n * 7 + sequence) % 11 - 5) / 60)
            rows.append(
                [
                    f"WO-{4100 - 3 * n}",
                    part,
                    str(sequence),
                    str(units),
                    f"{minutes:.1f}",
                    str(10 + n % 4),
                    day.isoformat(),
                ]
            )
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
