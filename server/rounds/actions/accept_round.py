"""Accept a round as a whole: its tally becomes standards from its day on, and stock is valued anew."""

from typing import Any

from accounts.access import require
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.utils.timezone import now
from django_tasks import task
from events.happened import happened
from jobs.work import Tell, carry_out
from standards.models import Round, Standard, Tally
from tally_core.basics.errors import TallyError

from rounds.jobs import begin, open_round_for
from rounds.staleness import changes_since
from rounds.states import why_not_accepted

__all__ = ["ask_to_accept", "run_accept"]

#: One acceptance at a time, so that each sees the standards of the one before.
_LOCK = 0x7A12
_STEPS = 4
_STANDARDS_SQL = """
    INSERT INTO standards_standard (part_id, round_id, first_day, lot, unit, elements, this_level)
    SELECT r.part_id, %(round)s, %(day)s, r.lot, r.unit, r.elements, r.this_level
    FROM standards_tallyrow r WHERE r.tally_id = %(tally)s ORDER BY r.part_id
"""
_REVALUE_SQL = """
    INSERT INTO standards_revaluation (round_id, part_id, on_hand, before, after)
    SELECT %(round)s, r.part_id, m.on_hand, CASE WHEN r.standard IS NULL THEN NULL ELSE r.before END, r.unit
    FROM standards_tallyrow r
    JOIN (SELECT part_id, sum(quantity) AS on_hand FROM definition_stockmove GROUP BY part_id) m ON m.part_id = r.part_id
    WHERE r.tally_id = %(tally)s AND m.on_hand <> 0
"""


def ask_to_accept(user: Any, round_id: int, version: int) -> None:
    """Have the worker accept a round as it was looked at.

    Raises TallyError when it cannot be accepted as it is, saying what to do, and Refused.
    """
    require(user, "standards")
    with transaction.atomic():
        the_round = open_round_for(round_id, "accept")
        refuse_stale(the_round, version)
        job = begin(the_round, "accepting", str(user))
    run_accept.enqueue(round_id, job.pk, user.pk, version)


def refuse_stale(the_round: Round, version: int) -> Tally:
    """The tally that may be accepted. Raises TallyError where there is none, or inputs have changed since."""
    tally = Tally.objects.filter(round=the_round).first()
    if tally is not None and version != the_round.version:
        raise TallyError(f"{the_round.name} was changed by somebody else meanwhile; look at it again, then accept it.")
    refusal = why_not_accepted(the_round, tally, changes_since(the_round, tally) if tally else ())
    if tally is None or refusal:
        raise TallyError(refusal or "")
    return tally


@task(queue_name="long")
def run_accept(round_id: int, job_id: int, user_id: int, version: int) -> None:
    """Accept; all of it in one transaction, or nothing."""

    def work(tell: Tell) -> None:
        user = User.objects.get(pk=user_id)
        require(user, "standards")
        tell("looking whether anything changed", 1, _STEPS)
        with transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_LOCK])
            # Not the round's own row yet: whoever looks at it shall see how far this is.
            the_round = Round.objects.get(pk=round_id)
            tally = refuse_stale(the_round, version)
            _refuse_taken_days(the_round, tally)
            values: dict[str, Any] = {"round": round_id, "tally": tally.pk, "day": the_round.first_day}
            with connection.cursor() as cursor:
                cursor.execute(_STANDARDS_SQL, values)
                cursor.execute(_REVALUE_SQL, values)
                revalued = cursor.rowcount
            the_round = open_round_for(round_id, "accept")
            if the_round.version != version:
                raise TallyError(f"{the_round.name} was changed by somebody else meanwhile; look at it again, then accept it.")
            the_round.status, the_round.closed_by, the_round.closed_at = "accepted", str(user), now()
            the_round._history_user, the_round._change_reason = (user, f"accepted; stock of {revalued:,} parts valued anew")
            the_round.save()
            happened("round accepted", str(user), round=the_round.name, first_day=the_round.first_day.isoformat(), revalued=revalued)

    carry_out(job_id, work)


def _refuse_taken_days(the_round: Round, tally: Tally) -> None:
    taken = Standard.objects.filter(part__in=tally.rows.values("part"), first_day__gte=the_round.first_day).select_related("part")
    first = taken.order_by("part__number").first()
    if first is not None:
        raise TallyError(
            f"{first.part.number} has a standard from {first.first_day.isoformat()} on, and {the_round.name} holds from "
            f"{the_round.first_day.isoformat()}; give it a later day and tally it again."
        )
