"""Take a supplier's price list: kept as it came, read by the worker, looked at, and then its offers are kept."""

from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from django.conf import settings
from django.db import transaction
from django_tasks import task
from files.store import opened, plain_name, store, too_large
from formats.apart import read_tables
from jobs.work import Tell, ask_for, carry_out
from partners.models import Partner
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.lists.cells import Cell, text_of
from verbs.contract import held, writing

from buying.actions.take_offer_list import OfferList, keep_offers, let_go_earlier, read_offers
from buying.models import Offer, PriceList
from buying.price_columns import checked_columns, columns_of, listed, titles_of
from buying.states import PRICE_LIST_ACTIONS

__all__ = ["KIND", "bring_price_list", "keep_price_list", "let_go_price_list", "map_price_list"]

KIND = "price list"
_SAMPLE = 4


def bring_price_list(user, code: str, name: str, content: bytes) -> PriceList:
    """Take the file and have the worker read it. Raises TallyError for one that is too large, MissingError and Refused."""
    with writing(user, "buying"):
        partner = Partner.objects.filter(code=code).first()
        if partner is None:
            raise MissingError(f"Partner {code} is not known.")
        if len(content) > settings.UPLOAD_LIMIT:
            raise TallyError(too_large(len(content)))
        made = PriceList(supplier=partner, name=plain_name(name), file=store(content, "application/octet-stream"), brought_by=str(user))
        made._history_user = user
        made.save()
        job = ask_for(KIND, made.pk, f"reading {made.name}", str(user))
    run_price_list.enqueue(made.pk, job.pk, False)
    return made


def _held(list_id: int, version: int | None, action: str) -> PriceList:
    of = held(PriceList.objects.filter(pk=list_id), version, "This list", "This list is no longer there.")
    PRICE_LIST_ACTIONS.require(action, of.state, of.name)
    return of


def map_price_list(user, list_id: int, version: int | None, columns: dict[str, int]) -> None:
    """Say which column holds what; it is read anew, and later lists of this supplier with these titles are read so.

    Raises ProblemsError for a map that makes no sense, TallyError while it is read, MissingError and Refused.
    """
    with writing(user, "buying"):
        of = _held(list_id, version, "map")
        of.columns, of.mapped = checked_columns(columns, len(of.titles)), True
        of.said = None
        _save(of, user)
        job = ask_for(KIND, of.pk, f"reading {of.name}", str(user))
    run_price_list.enqueue(list_id, job.pk, False)


def keep_price_list(user, list_id: int, version: int | None) -> None:
    """Have the worker keep the offers that are right. Raises ProblemsError, TallyError while it is at it, MissingError and Refused."""
    with writing(user, "buying"):
        of = _held(list_id, version, "keep")
        if not of.said or not of.said["good"]:
            raise ProblemsError([Problem("", "there is no offer in it that could be kept")])
        job = ask_for(KIND, of.pk, f"keeping the offers of {of.name}", str(user))
    run_price_list.enqueue(list_id, job.pk, True)


def let_go_price_list(user, list_id: int, version: int | None) -> None:
    """Keep nothing of it. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "buying"):
        of = _held(list_id, version, "let_go")
        of.state = "let go"
        _save(of, user)


def _save(of: PriceList, user: Any) -> None:
    of.version += 1
    of._history_user = user
    of.save()


@task()
def run_price_list(list_id: int, job_id: int, keep: bool) -> None:
    """Read it and say what it holds; with ``keep``, keep what is right, all at once."""

    def work(tell: Tell) -> None:
        of = PriceList.objects.select_related("supplier", "file").filter(pk=list_id, state="waiting").first()
        if of is None or of.supplier is None:
            raise MissingError("The list was let go.")
        tell("reading its rows")
        with opened(of.file, of.name) as content:
            tables = read_tables(of.name, content.read())
        rows = next((t.rows for t in tables if t.rows), [])
        if not of.mapped:
            of.header, of.titles = titles_of(rows)
            of.columns, of.mapped = columns_of(of.supplier, of.titles)
        of.sample = [[text_of(c)[:60] for c in row] for row in rows[of.header + 1 : of.header + 1 + _SAMPLE]]
        said, offers = _read(of, rows, lambda done: tell(f"checking its offers, {done:,} so far"))
        if keep:
            tell(f"keeping {len(offers):,} offers")
            with transaction.atomic():
                # Whoever looked at it meanwhile saw another reading of it.
                if not PriceList.objects.filter(pk=of.pk, version=of.version, state="waiting").update(state="kept"):
                    raise TallyError("The list was changed meanwhile; look at it again.")
                said.replaced = let_go_earlier(offers, of.supplier)
                said.kept = keep_offers(offers, of.supplier, of.brought_by, "list", of.name)
                PriceList.objects.filter(pk=of.pk).update(said=asdict(said))
            return
        fields = ("header", "titles", "columns", "mapped", "sample")
        read = {n: getattr(of, n) for n in fields} | {"said": asdict(said)}
        PriceList.objects.filter(pk=of.pk, version=of.version).update(**read)

    carry_out(job_id, work)


def _read(of: PriceList, rows: list[list[Cell]], goes_on: Callable[[int], None]) -> tuple[OfferList, list[Offer]]:
    try:
        table = listed(rows, of.columns, of.header)
    except ProblemsError as error:
        # It is looked at all the same: whoever brought it can say what the columns hold.
        return OfferList(problems=[p.message for p in error.problems]), []
    assert of.supplier is not None
    return read_offers(table, of.supplier, goes_on=goes_on)
