"""Let a handover go that will not be carried out; what was decided of it stays to be read."""

from django.utils.timezone import now
from verbs.contract import writing

from handover.actions.read_again import open_one

__all__ = ["let_go_handover"]


def let_go_handover(user, handover_id: int) -> None:
    """End it without writing anything. Raises MissingError, TallyError where it has ended or is being written, and Refused."""
    with writing(user, "handover"):
        handover = open_one(handover_id, "let_go")
        handover.by_hand.filter(known_as="").delete()
        handover.state, handover.ended_by, handover.ended_at = "dropped", str(user), now()
        handover.tell(str(user), "let go")
        handover.save()
