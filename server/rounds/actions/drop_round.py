"""Drop a round: nothing but the round itself changes."""

from typing import Any

from accounts.access import require
from django.db import transaction
from django.utils.timezone import now
from jobs.work import let_go
from standards.models import Round

from rounds.jobs import KIND, open_round_for

__all__ = ["drop_round"]


def drop_round(user: Any, round_id: int) -> Round:
    """Close an open round without any effect; what it proposed and its last tally stay to be looked at."""
    require(user, "rounds")
    with transaction.atomic():
        the_round = open_round_for(round_id, "drop")
        # Refused while a worker is at it; what still waits for one finds that its job is gone.
        let_go(KIND, the_round.pk, "The round was dropped.")
        the_round.status, the_round.closed_by, the_round.closed_at = "dropped", str(user), now()
        the_round._history_user, the_round._change_reason = user, "dropped"
        the_round.save()
        return the_round
