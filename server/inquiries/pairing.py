"""Which parts of ours each open line may be, kept with it (rules P1 to P4)."""

from collections.abc import Iterable
from typing import Any

from readings.pairing import our_shelf
from tally_core.pairing.propose import Asked, Proposal

from inquiries.models import Inquiry, ListLine, RememberedPair

__all__ = ["pair", "proposal_values"]


def pair(inquiry: Inquiry, lines: Iterable[ListLine]) -> list[ListLine]:
    """Lay proposals on lines; answers those that have others than before. Saves nothing."""
    lines = list(lines)
    if not lines:
        return []
    remembered = dict(
        RememberedPair.objects.filter(customer=inquiry.customer_id).values_list("folded", "part__number")
        if inquiry.customer_id
        else ()
    )
    shelf = our_shelf(remembered)
    changed = []
    for line in lines:
        said = line.as_mended()
        words = (said.get(n) or "" for n in ("part", "maker", "maker_number", "description"))
        found = [proposal_values(p) for p in shelf.propose(Asked(*words))]
        if found != line.proposals:
            line.proposals = found
            changed.append(line)
    return changed


def proposal_values(proposal: Proposal) -> dict[str, Any]:
    """A proposal in plain values."""
    return {
        "part": proposal.part,
        "road": proposal.road,
        "certain": proposal.certain,
        "verdicts": dict(proposal.verdicts),
    }
