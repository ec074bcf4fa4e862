"""Who somebody is here that a company's own sign-on has proven."""

from collections.abc import Mapping
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.db import transaction
from django.db.models import Q
from outside.services import SignOnService
from tally_core.basics.errors import TallyError

from accounts.access import GROUPS
from accounts.models import Identity
from accounts.people import listed, note, roles_of, wrong_name
from accounts.second import has_second, is_needed

__all__ = ["connect", "is_strong", "person_of"]


def person_of(service: SignOnService, claims: Mapping[str, Any]) -> Any:
    """The person here of proven claims, with the roles that their groups have now; made, where the service may make people.

    Raises TallyError, in words, where there is none, or they may not come in like this.
    """
    with transaction.atomic():
        held = Identity.objects.select_for_update().filter(issuer=service.issuer, subject=claims["sub"]).select_related("person").first()
        person = held.person if held else _made(service, claims)
        if not person.is_active:
            raise TallyError("This account is locked; ask an administrator.")
        _give_roles(person, service, claims)
    if (has_second(person) or is_needed(person)) and not is_strong(claims):
        raise TallyError(
            f"Here you sign in with a second factor, and {service.words} asked you for none; sign in with your password and a code."
        )
    return person


def connect(person: Any, service: SignOnService, claims: Mapping[str, Any]) -> None:
    """Let somebody who is signed in come by the sign-on from now on. Raises TallyError where it is known as somebody else, or they as another."""
    with transaction.atomic():
        person = get_user_model().objects.select_for_update().get(pk=person.pk)
        held = Identity.objects.filter(Q(issuer=service.issuer, subject=claims["sub"]) | Q(person=person)).first()
        if held is not None and (held.person_id, held.subject) != (person.pk, claims["sub"]):
            raise TallyError(
                f"This account of {service.words} is somebody else here already, or you come by another one; take that away first."
            )
        if held is None:
            Identity.objects.create(person=person, issuer=service.issuer, subject=claims["sub"])
            note(person, person, f"comes by {service.words} from now on")


def is_strong(claims: Mapping[str, Any]) -> bool:
    """Whether more than one factor was asked for (RFC 8176, ``mfa``)."""
    return "mfa" in (claims.get("amr") or [])


def _made(service: SignOnService, claims: Mapping[str, Any]) -> Any:
    if not service.makes_people:
        raise TallyError(f"Nobody here comes by this account of {service.words} yet: sign in by password, and connect it under Account.")
    people = get_user_model()
    name, full = claims.get(service.name), claims.get(service.full_name)
    if not isinstance(name, str) or wrong_name(name):
        raise TallyError(f"{service.words} knows you by a name that nobody can have here; ask an administrator.")
    if people.objects.filter(username__iexact=name).exists():
        raise TallyError(
            f"An account {name} is here already. If it is yours, sign in by password, and connect {service.words} under Account."
        )
    called = full if isinstance(full, str) and len(full) <= 100 and full.isprintable() else ""
    made = people(username=name, first_name=called.strip())
    made.set_unusable_password()
    made.save()
    Identity.objects.create(person=made, issuer=service.issuer, subject=claims["sub"])
    note(service.words, name, "came for the first time")
    return made


def _give_roles(person: Any, service: SignOnService, claims: Mapping[str, Any]) -> None:
    if not service.groups:
        return
    said = claims.get(service.groups)
    theirs = said if isinstance(said, list) else []
    before, theirs_to_give = roles_of(person), set(service.roles.values()) & set(GROUPS)
    # Roles that no group stands for are given by hand, and stay.
    roles = set(before) - theirs_to_give | {role for group, role in service.roles.items() if group in theirs and role in GROUPS}
    if roles == set(before):
        return
    if "administrator" in before and "administrator" not in roles:
        # As by hand: somebody has to stay who may change this.
        Group.objects.select_for_update().get(name="administrator")
        others = (
            get_user_model().objects.filter(Q(is_superuser=True) | Q(groups__name="administrator"), is_active=True).exclude(pk=person.pk)
        )
        if not others.exists():
            roles.add("administrator")
    person.groups.set(Group.objects.filter(name__in=roles))
    note(service.words, person, f"{listed(before)} before, {listed(roles)} now")
