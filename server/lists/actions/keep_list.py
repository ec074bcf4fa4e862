"""Keep how a list is made under a name, for oneself or for all; or let it go."""

from typing import Any

from accounts.access import require
from django.db import transaction
from django.db.models import Q
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from lists.models import KeptList
from lists.wanted import Wanted

__all__ = ["drop_list", "keep_list", "lists_of"]

_MOST = 60


def lists_of(user: Any) -> Any:
    """The kept lists that a person has: their own, and those for all."""
    return KeptList.objects.filter(Q(user=user) | Q(for_all=True)).select_related("user")


def keep_list(user: Any, name: str, for_all: bool, wanted: Wanted) -> KeptList:
    """Keep a list, in place of one's own of the same name. What is for all needs the right to it.

    Raises ProblemsError for a name that cannot be kept, or that somebody else keeps for all.
    """
    if for_all:
        require(user, "lists")
    name = name.strip()
    if not 0 < len(name) <= 60 or not name.isprintable():
        raise ProblemsError([Problem("name", "the name of a list has 1 to 60 characters")])
    with transaction.atomic():
        held = KeptList.objects.select_for_update()
        other = held.filter(name=name, for_all=True).exclude(user=user).select_related("user").first() if for_all else None
        if other is not None:
            raise ProblemsError([Problem("name", f"{other.user.get_username()} keeps a list “{name}” for all; choose another name")])
        if held.filter(user=user).exclude(name=name).count() >= _MOST:
            raise ProblemsError([Problem("name", f"a person keeps at most {_MOST} lists; let one go first")])
        return held.update_or_create(user=user, name=name, defaults={"for_all": for_all, "value": wanted.plain()})[0]


def drop_list(user: Any, key: int) -> None:
    """Let a kept list go: one's own, or one for all by who may keep such. Raises MissingError for one that is not there."""
    kept = KeptList.objects.filter(pk=key).first()
    if kept is not None and kept.user_id != user.pk:
        require(user, "lists")
    if kept is None or (kept.user_id != user.pk and not kept.for_all):
        raise MissingError("This list is no longer kept.")
    kept.delete()
