"""What an order takes of a component, or gives back, as rows of the ledger."""

from decimal import Decimal

from definition.models.parts import Part
from tally_core.basics.kinds import PART_KIND
from tally_core.shop.expected import OrderPlan
from verbs.parts.move_lots import Codes
from verbs.parts.post_stock import StockPost

from shop.laying import decimal_of
from shop.ledger import Row
from shop.models import Component, WorkOrder

__all__ = ["beyond_the_list", "taking"]


def taking(
    order: WorkOrder,
    plan: OrderPlan,
    component: Component,
    quantity: Decimal,
    instead: Part | None = None,
    stands_for: Decimal = Decimal(0),
    codes: Codes = (),
) -> list[Row]:
    """So much of a component taken (W3), less than nothing where it comes back; of a by-product, what came of it.

    ``codes``: which lots or units. ``instead``: the part that is taken in its place, of which ``quantity`` stands for ``stands_for`` of it. What the customer supplies costs
    nothing, and is not ours to move; a charge is paid as the plan has it; everything else moves stock.
    """
    part = instead or component.part
    row = Row("issue", operation=component.operation, component=component.row, part=part.pk, quantity=quantity, stood_in=stands_for)
    if component.customer_supplied:
        return [row]
    price = {name: decimal_of(amount) for name, amount in plan.lines[component.row].price.items()}
    words = f"{'back from' if quantity < 0 else 'for'} {order.number}"
    if component.byproduct:
        worth = {name: amount * quantity for name, amount in price.items()}
        row.stock = StockPost(
            part.pk, quantity, f"by-product of {order.number}", worth if quantity > 0 else None, f"component {component.row}"
        )
    elif PART_KIND[part.kind].stocked:
        row.stock = StockPost(part.pk, -quantity, words, None, f"component {component.row}", codes, order.number)
    else:
        row.cost = {name: amount * quantity for name, amount in price.items()}
    return [row]


def beyond_the_list(order: WorkOrder, component: Component, quantity: Decimal) -> Row:
    """So much more of a component than its line asks for, or less: no backflush takes it off again, and all of it is usage beyond the list."""
    row = Row("issue", operation=component.operation, part=component.part_id, quantity=quantity)
    if PART_KIND[component.part.kind].stocked and not component.customer_supplied:
        place = f"component {component.row}"
        row.stock = StockPost(component.part_id, -quantity, f"for {order.number}, beyond its list", None, place)
    return row
