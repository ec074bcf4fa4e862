"""Write both sides, all of it or nothing (rule H5); and where a writing over there broke off, finish it or take it back.

What is to be written over there stands in a journal before the first call. Our side is written in one transaction, which is kept open while
theirs is written and ends only when all of it stands; so whatever happens on the way, ours is as before until both are whole.
"""

from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import Any

from definition.models.parts import Part
from django.contrib.auth import get_user_model
from django.db import connection, transaction
from django.utils.timezone import now
from django_tasks import task
from events.happened import happened
from jobs.locks import HANDOVER
from jobs.work import Tell, ask_for, carry_out
from outside.calling import CallFailed
from outside.records import Book, Moved, Read, Thing
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.handover.comparing import Row
from tally_core.handover.settling import Agreed as AgreedState
from tally_core.handover.settling import agree
from verbs.contract import writing

from handover.actions.read_again import open_one, read_now
from handover.journal import how_it_stands, journal_of, take_back, writes_in
from handover.kept import agreed_states, read_from
from handover.known_as import book_of
from handover.looking import Look, look, look_at
from handover.models import Agreed, Handover
from handover.our_writes import write_ours
from handover.planning import Plan, plan_of, row_words
from handover.wording import crossing

__all__ = ["KIND", "finish_handover", "hand_over", "take_handover_back"]

KIND = "hand over"
_OUR_SIDE = "our side moved since the change sheet was made; look at it again"


def hand_over(user, handover_id: int, digest: str) -> None:
    """Have the worker write the change sheet that somebody read. ``digest`` names it.

    Raises ProblemsError with what stops it, TallyError where it is not as it was read, MissingError, and Refused.
    """
    with writing(user, "handover"):
        handover = open_one(handover_id)
        if handover.theirs is None:
            raise TallyError("The other side was not read yet.")
        _refuse_two(handover)
        _ready(handover, look_at(handover), digest)
        job = ask_for(KIND, handover.pk, f"handing over {handover.number}", str(user))
    run_hand_over.enqueue(handover.pk, job.pk, user.pk, digest)


def _refuse_two(handover: Handover) -> None:
    """One at a time writes to a record, within the caller's transaction. Raises TallyError while another one does, or broke off."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s, 1)", [HANDOVER])
    other = Handover.objects.filter(record=handover.record, state="writing").exclude(pk=handover.pk).first()
    if other is not None:
        raise TallyError(f"{other.number} is being written, or broke off in the middle; finish it or take it back first.")


def finish_handover(user, handover_id: int) -> None:
    """Have the worker write the rest of what broke off. Raises MissingError, Refused, and TallyError where it did not."""
    _settle(user, handover_id, run_finish)


def take_handover_back(user, handover_id: int) -> None:
    """Have the worker put back over there what was written of it. Raises as :func:`finish_handover`."""
    _settle(user, handover_id, run_take_back)


def _settle(user, handover_id: int, run: Any) -> None:
    with writing(user, "handover"):
        handover = open_one(handover_id, "settle")
        job = ask_for(KIND, handover.pk, f"settling {handover.number}", str(user))
    run.enqueue(handover.pk, job.pk, user.pk)


@task(queue_name="long", priority=10)
def run_hand_over(handover_id: int, job_id: int, user_id: int, digest: str) -> None:
    """See that nobody over there moved anything, note what will be written, and write it."""

    def work(tell: Tell, handover: Handover, book: Book, user: Any) -> None:
        tell("asking what moved over there", 1, 3)
        _refuse_moved(handover, book, user)
        with transaction.atomic():
            _refuse_two(handover)
            held = open_one(handover_id)
            found = look_at(held)
            plan = _ready(held, found, digest)
            held.state, held.sheet, held.journal = "writing", plan.sheet, journal_of(found, plan)
            held.tell(str(user), f"began to write over there, {len(plan.writes)} of their things")
            held.save()
        tell(f"writing {len(plan.changes):,} changes", 2, 3)
        _write(handover_id, book, user)

    _carried_out(handover_id, job_id, user_id, work)


@task(queue_name="long", priority=10)
def run_finish(handover_id: int, job_id: int, user_id: int) -> None:
    """Write what is still to be written."""

    def work(tell: Tell, handover: Handover, book: Book, user: Any) -> None:
        tell("writing what is still to be written", 1, 1)
        _write(handover_id, book, user)

    _carried_out(handover_id, job_id, user_id, work)


@task(queue_name="long", priority=10)
def run_take_back(handover_id: int, job_id: int, user_id: int) -> None:
    """Put back what was written."""

    def work(tell: Tell, handover: Handover, book: Book, user: Any) -> None:
        tell("taking back", 1, 1)
        try:
            _taken_back(handover_id, book, user)
        except (CallFailed, Moved) as error:
            _told(handover_id, user, f"could not be taken back: {error}")
            raise TallyError(f"It could not be taken back: {error}. Try again.") from None

    _carried_out(handover_id, job_id, user_id, work)


def _carried_out(handover_id: int, job_id: int, user_id: int, work: Callable[[Tell, Handover, Book, Any], None]) -> None:
    def carried(tell: Tell) -> None:
        handover = Handover.objects.select_related("top").filter(pk=handover_id).first()
        user = get_user_model().objects.filter(pk=user_id).first()
        if handover is None or user is None:
            raise MissingError("The handover was taken away.")
        work(tell, handover, book_of(handover.record), user)

    carry_out(job_id, carried)


def _ready(handover: Handover, found: Look, digest: str) -> Plan:
    """What will be written, if nothing stops it and it is what somebody read."""
    plan = plan_of(handover, found, book_of(handover.record))
    if plan.stops:
        raise ProblemsError([Problem(s.row or s.part, f"{s.part}: {s.words}") for s in plan.stops])
    if not plan.changes:
        raise TallyError("There is nothing to write.")
    if plan.digest != digest:
        raise TallyError(f"Nothing was written: {_OUR_SIDE}.")
    return plan


def _refuse_moved(handover: Handover, book: Book, user: Any) -> None:
    """Raise TallyError where anything that was compared moved over there since; it is read again, so that only that is to be decided."""
    read = read_from(handover.theirs)
    codes = {t.key.partition("|")[0] for t in read.things}
    # Of what only stands on a chosen sheet, its own structure is not looked at.
    chosen = set(Part.objects.filter(pk__in=handover.sheets).values_list("number", flat=True)) if handover.sheets else codes
    try:
        moved = [t for t in book.moved(read) if (code := t.key.partition("|")[0]) in codes and (t.kind == "items" or code in chosen)]
    except CallFailed as error:
        raise TallyError(f"Nothing was written: {error}.") from None
    if not moved:
        return
    read_now(handover)
    listed = ", ".join(dict.fromkeys(t.key.partition("|")[0] + (f" ({t.by})" if t.by else "") for t in moved[:5]))
    _told(handover.pk, user, f"nothing was written: {listed} moved over there")
    raise TallyError(f"Nothing was written: {listed} moved over there meanwhile. It was read again; look at what is other now.")


def _write(handover_id: int, book: Book, user: Any) -> None:
    """Write both sides; where that fails, take back what stands over there. Raises TallyError."""
    try:
        with transaction.atomic():
            _both(handover_id, book, user)
    except (CallFailed, Moved, TallyError) as error:
        words = "what was to be written moved over there" if isinstance(error, Moved) else str(error).rstrip(".")
        raise TallyError(_after_failure(handover_id, book, user, words)) from None
    except Exception as error:
        _after_failure(handover_id, book, user, type(error).__name__)
        raise


def _after_failure(handover_id: int, book: Book, user: Any, words: str) -> str:
    try:
        back = _taken_back(handover_id, book, user, words)
    except (CallFailed, Moved, TallyError) as error:
        _told(handover_id, user, f"broke off: {words}; could not be taken back: {error}")
        return f"It broke off: {words}. What was written over there could not be taken back ({error}); finish it or take it back."
    return f"Nothing is written: {words}." if not back else f"It was taken back, both sides are as before: {words}."


def _taken_back(handover_id: int, book: Book, user: Any, words: str = "") -> int:
    handover = Handover.objects.select_related("top").get(pk=handover_id)
    back, theirs = take_back(book, handover.journal, str(user))
    with transaction.atomic():
        held = open_one(handover_id, "settle")
        held.state, held.sheet, held.journal = "work", None, None
        done = f"taken back, {back} of their things are as before" if back else "nothing was written"
        if theirs:
            done += f"; {', '.join(key.replace('|', ' ') for key in theirs[:5])} was changed over there meanwhile, and stays so"
        held.tell(str(user), f"{done}: {words}" if words else done)
        held.save()
    if back or theirs:
        # What was put back has other versions now. Where it cannot be read this moment, the next handover finds them moved.
        with suppress(TallyError):
            read_now(held)
    return back


def _told(handover_id: int, user: Any, words: str) -> None:
    with transaction.atomic():
        held = open_one(handover_id, "tell")
        held.tell(str(user), words)
        held.save(update_fields=["log"])


def _both(handover_id: int, book: Book, user: Any) -> None:
    """Ours, then theirs, then what is agreed; within the caller's transaction."""
    handover = open_one(handover_id, "settle")
    found = look_at(handover, lock=True)
    plan = plan_of(handover, found, book)
    if handover.journal is None or plan.digest != handover.journal["digest"]:
        raise TallyError(_OUR_SIDE)
    writes = [w for w, _ in writes_in(handover.journal)]
    drafts_before = write_ours(user, handover, found, plan.changes)
    stand = how_it_stands(book, writes)
    if stand.moved:
        raise Moved([(w.kind, w.key) for w in stand.moved])
    if stand.waiting:
        book.write(stand.waiting, str(user))
    after = how_it_stands(book, writes)
    if after.waiting or after.moved:
        left = ", ".join(w.key.replace("|", " ") for w in (*after.waiting, *after.moved)[:5])
        raise CallFailed(f"the records took it, but {left} does not say what was written")
    _agreed(handover, plan, found, [t for _, t in after.written], drafts_before)
    handover.state, handover.ended_by, handover.ended_at = "done", str(user), now()
    handover.journal = None
    handover.tell(str(user), f"handed over, {len(plan.changes)} changes" + (f"; {len(plan.left)} rows left" if plan.left else ""))
    handover.save()
    happened(
        "handover done", str(user), number=handover.number, product=handover.top.number, record=handover.record, changes=len(plan.changes)
    )


def _agreed(handover: Handover, plan: Plan, before: Look, written: list[Thing], drafts_before: set[tuple[str, str]]) -> None:
    """Keep what is agreed from now on: what both sides say when they are compared once more, and what was left as it was before.

    What else stands in a draft that somebody worked at before is not in step, and is not expected to be.
    """
    things = before.theirs.things | {(t.kind, t.key): t for t in written}
    read = Read(list(things.values()), "")
    _name_by_hand(before, things)
    assert handover.day is not None
    after = look(handover.record, handover.top, read, handover.day, handover, anew=True)
    other = [
        (kind, row)
        for key, (kind, row) in after.rows.items()
        if not row.kept and key not in plan.left and not (drafts_before and (key not in before.rows or _place(row) in drafts_before))
    ]
    if other:
        listed = "; ".join(f"{row.names.get('parent') or row.names['part']}, {row_words(kind, row.names)}" for kind, row in other[:5])
        raise TallyError(f"{listed}: it would not agree after it is written, so it is not")
    states = _states(after, agree(after.made, after.agreed, after.ours.of))
    held = dict(
        Agreed.objects.filter(record=handover.record, number__in=states)
        .order_by("number", "-id")
        .distinct("number")
        .values_list("number", "state")
    )
    if handover.sheets:
        states = _with_sheets_kept(states, held, set(after.ours.numbers_of(handover.sheets)))
    fresh = [Agreed(record=handover.record, number=n, handover=handover, state=s) for n, s in states.items() if held.get(n) != s]
    Agreed.objects.bulk_create(fresh, batch_size=2000)


def _with_sheets_kept(states: Mapping[str, Any], held: Mapping[str, Any], chosen: set[str]) -> dict[str, Any]:
    """Of parts whose sheets were not compared, what was agreed of those stays; as it is where other fields crossed then."""
    kept = {}
    for number, state in states.items():
        before = held.get(number)
        if before is None or number in chosen or not before["sheets"]:
            kept[number] = state
        elif before["fields"] == state["fields"]:
            kept[number] = {**state, "sheets": before["sheets"]}
    return kept


def _place(row: Row) -> tuple[Any, Any]:
    return row.names.get("parent"), row.names.get("alternate")


def _states(after: Look, agreed: AgreedState) -> Mapping[str, dict[str, Any]]:
    return agreed_states(agreed, after.theirs.keys, crossing(after.words))


def _name_by_hand(before: Look, things: Mapping[tuple[str, str], Thing]) -> None:
    """Note their keys of lines that were just added by hand: a row that was not there, with the item."""
    known = set(before.theirs.keys.values())
    word = next(f.theirs for f in before.words.fields if f.table == "lines" and f.ours == "part")
    for x in before.by_hand:
        if x.known_as:
            continue
        thing = things.get(("structures", f"{x.parent.number}|{x.alternate}"))
        for row in thing.body.get("rows", []) if thing else []:
            key = str(row.get("id") or "")
            if key and key not in known and row.get(word) == x.item:
                known.add(key)
                x.known_as = key
                x.save(update_fields=["known_as"])
                break
