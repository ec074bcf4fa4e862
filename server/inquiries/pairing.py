"""Which parts of ours each open line may be, kept with it (rules P1 to P4)."""

from collections.abc import Iterable
from typing import Any

from partners.models import Partner
from readings.pairing import asked_of
from tally_core.pairing.propose import Proposal

from inquiries.models import Inquiry, ListLine, RememberedPair
from inquiries.ours import shelf_for

__all__ = ["pair", "proposal_values", "remembered_of"]


def pair(inquiry: Inquiry, lines: Iterable[ListLine]) -> list[ListLine]:
    """Lay proposals on lines; answers those that have others than before. Saves nothing."""
    lines = list(lines)
    if not lines:
        return []
    asked = [asked_of(x.as_mended()) for x in lines]
    shelf = shelf_for(asked, remembered_of(inquiry.customer))
    changed = []
    for line, said in zip(lines, asked, strict=True):
        found = [proposal_values(p) for p in shelf.propose(said)]
        if found != line.proposals:
            line.proposals = found
            changed.append(line)
    return changed


def remembered_of(sender: Partner | None) -> dict[str, str]:
    """A sender's numbers, folded, and the parts of ours they were paired with before."""
    pairs = RememberedPair.objects.filter(customer=sender) if sender is not None else RememberedPair.objects.none()
    return dict(pairs.values_list("folded", "part__number"))


def proposal_values(proposal: Proposal) -> dict[str, Any]:
    """A proposal in plain values."""
    return {"part": proposal.part, "road": proposal.road, "certain": proposal.certain, "verdicts": dict(proposal.verdicts)}
