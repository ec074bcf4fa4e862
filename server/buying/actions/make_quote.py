"""Make a quote of the plans of an inquiry, change what is added to its costs, and send it: from then on it stands as it is."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from definition.models.parts import Workspace
from django.db import connection
from django.utils.timezone import now
from inquiries.models import Inquiry
from jobs.locks import BUYING
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import asked_before, held, writing

from buying.models import Quote
from buying.quoting import WORDS, costs_of_plans
from buying.states import QUOTE_ACTIONS
from buying.typed_number import typed_number

__all__ = ["change_quote", "make_quote", "send_quote"]

_MOST_ONCE = 20


def make_quote(user, inquiry_id: int, key: UUID | None = None) -> Quote:
    """A quote at every quantity that was planned for an inquiry, with the markups of its last one. ``key``: see :func:`asked_before`.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        inquiry = Inquiry.objects.select_for_update(of=("self",)).filter(pk=inquiry_id).first()
        if inquiry is None:
            raise MissingError("This inquiry is no longer there.")
        plans = list(inquiry.plans.order_by("id"))
        if not plans:
            raise ProblemsError([Problem("", "plan the buying of its quantities first; a quote rests on that")])
        costs = costs_of_plans(plans)
        last = inquiry.quotes.first()
        quote = Quote(inquiry=inquiry, costs=costs, currency=Workspace.the().currency, made_by=str(user), asked_as=key)
        if last is not None:
            for name in ("markups", "overall_percent", "once", "decimals", "valid_days", "words"):
                setattr(quote, name, getattr(last, name))
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 2)", [BUYING])
        if before := asked_before(Quote.objects.all(), key):
            return before
        numbers = Quote.objects.filter(number__regex=r"^Q[0-9]{4,9}$").order_by("-id").values_list("number", flat=True)[:20]
        quote.number = f"Q{max((int(n[1:]) for n in numbers), default=1000) + 1:04d}"
        quote._history_user = user
        quote.save()
        return quote


def _held(quote_id: int, version: int | None, action: str) -> Quote:
    quote = held(Quote.objects.filter(pk=quote_id), version, "This quote", "This quote is no longer there.")
    QUOTE_ACTIONS.require(action, quote.state, quote.number)
    return quote


def change_quote(user, quote_id: int, version: int | None, given: dict[str, Any]) -> Quote:
    """What is added to the costs of a draft: markups, overall_percent, once, decimals, valid_days, words; what is left out stays.

    Raises ProblemsError naming each field, MissingError and Refused.
    """
    with writing(user, "buying"):
        quote = _held(quote_id, version, "change")
        problems: list[Problem] = []
        if "markups" in given:
            markups = {}
            for name, text in given["markups"].items():
                percent = _number(text or "0")
                if name not in WORDS or percent is None or not -100 <= percent <= 1000:
                    problems.append(Problem(f"markups.{name}", "a share in percent from -100 to 1,000"))
                elif percent:
                    markups[name] = f"{percent.normalize():f}"
            quote.markups = markups
        if "overall_percent" in given:
            percent = _number(given["overall_percent"] or "0")
            if percent is None or not -100 < percent <= 1000:
                problems.append(Problem("overall_percent", "a share in percent above -100, up to 1,000"))
            else:
                quote.overall_percent = percent
        if "once" in given:
            quote.once = _once(given["once"], problems)
        for name, least, most in (("decimals", 0, 6), ("valid_days", 1, 365)):
            if name in given:
                if not least <= given[name] <= most:
                    problems.append(Problem(name, f"{least} to {most}"))
                setattr(quote, name, given[name])
        if "words" in given:
            quote.words = given["words"].strip()
            if len(quote.words) > 5000 or "\x00" in quote.words:
                problems.append(Problem("words", "at most 5,000 characters"))
        if problems:
            raise ProblemsError(problems)
        return _saved(quote, user)


def _once(rows: list[dict[str, Any]], problems: list[Problem]) -> list[dict[str, Any]]:
    found = []
    if len(rows) > _MOST_ONCE:
        problems.append(Problem("once", f"at most {_MOST_ONCE} of them"))
    for at, row in enumerate(rows[:_MOST_ONCE]):
        words, amount = " ".join(row["words"].split()), _number(row["amount"])
        if not words or len(words) > 200 or not words.isprintable():
            problems.append(Problem(f"once[{at}].words", "say what it is, in at most 200 characters"))
        if amount is None or not 0 <= amount < 10**9:
            problems.append(Problem(f"once[{at}].amount", "an amount of money from 0"))
        found.append({"words": words, "amount": f"{(amount or Decimal(0)).normalize():f}", "spread": bool(row["spread"])})
    return found


def _number(text: Any) -> Decimal | None:
    number = typed_number(text)
    return None if number is None else round(number, 9)


def send_quote(user, quote_id: int, version: int | None) -> Quote:
    """The quote went to the customer; the inquiry is quoted now. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "buying"):
        quote = _held(quote_id, version, "send")
        quote.state, quote.sent_by, quote.sent_at = "sent", str(user), now()
        inquiry = Inquiry.objects.select_for_update(of=("self",)).get(pk=quote.inquiry_id)
        if inquiry.state in ("work", "waiting", "ready"):
            inquiry.state = "quoted"
            inquiry.version += 1
            inquiry._history_user = user
            inquiry.save()
        return _saved(quote, user)


def _saved(quote: Quote, user: Any) -> Quote:
    quote.version += 1
    quote._history_user = user
    quote.save()
    return quote
