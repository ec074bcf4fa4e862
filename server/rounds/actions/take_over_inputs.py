"""Make what an accepted round proposed the inputs themselves, as far as they are not on released sheets."""

from collections import defaultdict
from typing import Any

from accounts.access import require
from definition.models.parts import Part
from definition.models.work_centers import WorkCenter
from definition.records import plain_decimal, work_center_record
from django.db import transaction
from readings.part_plan import MOST
from standards.models import Proposal, Round
from tally_core.basics.errors import MissingError
from tally_core.structure.rates import RATES
from verbs.parts.save_parts import save_parts
from verbs.work_centers.save_work_center import save_work_center

from rounds.states import require_now

__all__ = ["take_over_inputs"]


def take_over_inputs(user: Any, round_id: int) -> dict[str, int]:
    """Write proposed prices, costs by hand, lots and rates to their parts and work centers, in one transaction.

    Prices and rates hold from the round's day on, beside those of before. Quantities, scrap and times stand on sheets, which are
    changed by a draft and released; they are counted as left.

    Returns how many ``parts`` and ``centers`` were written, and how many proposals were ``left``. Raises ProblemsError for a
    round that is not accepted, MissingError and Refused.
    """
    require(user, "standards")
    require(user, "parts")
    require(user, "work centers")
    with transaction.atomic():
        the_round = Round.objects.select_for_update().filter(pk=round_id).first()
        if the_round is None:
            raise MissingError("This round is no longer there.")
        require_now(the_round, "take_over")
        parts: dict[str, dict[str, Any]] = defaultdict(dict)
        versions: dict[str, int] = {}
        centers: dict[str, dict[str, Any]] = defaultdict(dict)
        left = 0
        for p in Proposal.objects.filter(round=the_round).select_related("part"):
            if p.table == "part" and p.part is not None:
                versions[p.part.number] = p.part.version
                if p.field == "unit_cost":
                    parts[p.part.number]["prices"] = _with_price(p.part, the_round, plain_decimal(p.value) or "")
                else:
                    parts[p.part.number][p.field] = plain_decimal(p.value) or ""
                if p.field in ("given_cost", "markup_percent"):
                    parts[p.part.number]["given_reason"] = p.reason
            elif p.table == "work_center":
                centers[p.key][p.field] = p.value
            else:
                left += 1
        rows = [{"number": number, "fields": fields, "version": versions[number]} for number, fields in parts.items()]
        changed = 0
        for at in range(0, len(rows), MOST):
            changed += save_parts(user, rows[at : at + MOST], f"accepted with {the_round.name}")[1]
        for center in WorkCenter.objects.filter(pk__in=centers):
            _write_rates(user, center, centers[str(center.pk)], the_round)
        the_round._history_user, the_round._change_reason = (user, f"{changed:,} parts and {len(centers):,} work centers took its inputs")
        the_round.save()
        return {"parts": changed, "centers": len(centers), "left": left}


def _with_price(part: Part, the_round: Round, price: str) -> list[dict[str, str]]:
    """The prices of a part with another one from the round's day on."""
    day = the_round.first_day.isoformat()
    return [c for c in part.prices if c["first_day"] != day] + [{"first_day": day, "unit_cost": price}]


def _write_rates(user: Any, center: WorkCenter, fields: dict[str, Any], the_round: Round) -> None:
    """Rates as a change from the round's day on; what is no rate at once."""
    record = work_center_record(center)
    plain: list[dict[str, Any]] = [
        {"first_day": change.first_day.isoformat()}
        | {name: plain_decimal(getattr(change, name)) for name in RATES if getattr(change, name) is not None}
        for change in record.rates
    ]
    day = the_round.first_day.isoformat()
    rates: dict[str, Any] = {name: plain_decimal(value) for name, value in fields.items() if name in RATES and value is not None}
    if rates:
        same = next((change for change in plain if change["first_day"] == day), None)
        if same is None:
            plain.append({"first_day": day} | rates)
        else:
            same.update(rates)
    others: dict[str, Any] = {name: plain_decimal(value) or "" for name, value in fields.items() if name not in RATES}
    save_work_center(user, others | ({"rates": plain} if rates else {}), center.code, center.version)
