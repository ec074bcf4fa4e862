"""``plan FILE``: the cheapest plan for a purchase, with its bound (rule B5)."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from tally_core.buying.cheapest import cheapest_plan
from tally_core.buying.purchase_file import plan_as_json, read_purchase

from tally_site.management.commands._answer import Outside, json_file, told_together

#: Up to so many needs a plan is searched until it is proven; above, until it is within this share of its bound.
FEW_NEEDS, GAP = 200, 1e-4


class Command(Outside):
    help = "The cheapest way to cover all needs of a purchase at once, with a proven bound. Saves nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file")
        parser.add_argument("--seconds", type=float, default=60.0, help="after them the best plan found stands")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        with told_together():
            purchase = read_purchase(json_file(Path(given["file"])))
        gap = 0.0 if len(purchase.needs) <= FEW_NEEDS else GAP
        said = plan_as_json(cheapest_plan(purchase, gap=gap, seconds=given["seconds"]))
        self.stdout.write(json.dumps(said, ensure_ascii=False) if given["json"] else _words(said, purchase.currency))


def _words(said: dict[str, Any], currency: str) -> str:
    lines = [f"total {said['total']} {currency}, proven at least {said['bound']}, line by line {said['line_by_line'] or 'not possible'}"]
    for order in said["orders"]:
        lines.append(f"{order['supplier']}: goods {order['goods']}, freight {order['freight']}, charge {order['charge']}")
        lines += [
            f"  {line['part']:24} {line['quantity']:>16} × {line['price']} = {line['cost']}  surplus {line['surplus']}"
            for line in order["lines"]
        ]
    return "\n".join([*lines, *(f"{u['part']}: {u['reason']}. {u['detail']}" for u in said["uncovered"])])
