"""Forget what a sender's number was paired with; lines that were decided stay as they are."""

from tally_core.basics.errors import MissingError
from verbs.contract import writing

from inquiries.models import RememberedPair

__all__ = ["forget_pair"]


def forget_pair(user, pair_id: int) -> None:
    """Forget one pair. Raises MissingError and Refused."""
    with writing(user, "inquiries"):
        pair = RememberedPair.objects.select_for_update(of=("self",)).filter(pk=pair_id).first()
        if pair is None:
            raise MissingError("This pair is no longer remembered.")
        pair._history_user = user
        pair.delete()
