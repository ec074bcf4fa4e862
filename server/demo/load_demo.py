"""Fill an empty database with the demo."""

from accounts.access import GROUPS, make_groups
from django.contrib.auth.models import Group, User
from django.db import transaction
from parts.models import Part
from sheets.actions.load_bundle import load_bundle

from .definition import demo_bundle

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
        load_bundle(demo_bundle(), "demo", User.objects.get(username="engineer"))
        return True
