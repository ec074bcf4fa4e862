"""Come by the company's own sign-on no more."""

from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError

from accounts.models import Identity
from accounts.people import note

__all__ = ["drop_identity"]


def drop_identity(user: Any) -> None:
    """Take one's own away. Raises ProblemsError for who has no password, and could not come in any more."""
    with transaction.atomic():
        person = get_user_model().objects.select_for_update().get(pk=user.pk)
        if not person.has_usable_password():
            raise ProblemsError([Problem("", "You have no password here; an administrator gives you one first.")])
        if Identity.objects.filter(person=person).delete()[0]:
            note(user, user, "comes by the sign-on no more")
