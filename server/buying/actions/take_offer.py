"""Take an offer that somebody typed, or let one go that does not hold any more."""

from typing import Any

from definition.models.parts import Part, Workspace
from django.utils.timezone import now
from partners.models import Partner
from partners.naming import partners_named
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing

from buying.models import Offer
from buying.offered import checked_offer

__all__ = ["let_go_offer", "take_offer"]


def take_offer(user, part: str, supplier: str, given: dict[str, Any]) -> tuple[Offer, list[str]]:
    """Keep an offer of a supplier, by name or code; one nobody knows yet is made. Answers it, and what is worth a look.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        row = Part.objects.filter(number=part).first()
        if row is None:
            raise MissingError(f"part {part} is not known")
        if not supplier.strip():
            raise ProblemsError([Problem("supplier", "say who offers it")])
        named = partners_named([supplier], "supplier", user)[supplier]
        partner = Partner.objects.get(name=named)
        offer, problems, look = checked_offer(row, given, partner.currency or Workspace.the().currency)
        if row.kind not in ("bought", "made"):
            problems.append(Problem("part", f"{row.number} is a {row.kind} part; it is not bought"))
        if problems:
            raise ProblemsError(problems)
        offer.supplier, offer.taken_by = partner, str(user)
        offer.save()
        return offer, look


def let_go_offer(user, offer_id: int) -> None:
    """An offer that does not hold any more is kept, and no plan uses it. Raises MissingError and Refused."""
    with writing(user, "buying"):
        if not Offer.objects.filter(pk=offer_id, let_go_at=None).update(let_go_at=now(), let_go_by=str(user)):
            raise MissingError("This offer does not hold any more.")
