"""What is still to be done on released orders, for the load of work centers."""

from definition.models.work_centers import WorkCenter
from django.utils.timezone import localtime, now
from readings.center_load import OrderWork

from shop.models import OrderOperation
from shop.stations import floats

__all__ = ["order_work"]


def order_work() -> list[OrderWork]:
    """Every operation of a released order at a work center that is not reported whole, from when it is laid, or from now where that is past.

    Its set-up counts until something of it is reported, its run by the units that are not. Two queries.
    """
    here = localtime(now()).replace(tzinfo=None)
    found = OrderOperation.objects.filter(order__state__in=("released", "running"), center__isnull=False)
    begun = {(o.order_id, o.sequence): o for o in found if o.resource == 0}
    said = []
    for o in found.select_related("order__part", "center"):
        lead = begun.get((o.order_id, o.sequence), o)
        reported = lead.good + lead.scrapped
        if o.planned <= 0 or reported >= o.planned:
            continue
        minutes = float((o.setup_minutes if not reported else 0) + o.run_minutes * (1 - reported / o.planned))
        assert isinstance(o.center, WorkCenter)
        starts = localtime(lead.starts_at).replace(tzinfo=None) if lead.starts_at else here
        if minutes > 0:
            said.append(
                OrderWork(
                    o.order.number,
                    o.center.code,
                    max(starts, here),
                    minutes,
                    o.order.part.number,
                    o.sequence,
                    o.name,
                    o.group if floats(o) else "",
                )
            )
    return said
