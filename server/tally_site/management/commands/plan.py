"""``plan FILE``: the cheapest plan for a purchase, with its bound (rule B5)."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from tally_core.basics.errors import ProblemsError, TallyError
from tally_core.buying.cheapest import cheapest_plan
from tally_core.buying.offers import Purchase
from tally_core.buying.purchase_file import plan_as_json, read_purchase

from tally_site.management.commands._answer import Outside

#: Up to so many needs a plan is searched until it is proven; above, until it is within this share of its bound.
FEW_NEEDS, GAP = 200, 1e-4
MOST_BYTES = 200_000_000
#: So many problems are told.
_TOLD = 20


class Command(Outside):
    help = "The cheapest way to cover all needs of a purchase at once, with a proven bound. Saves nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file")
        parser.add_argument("--seconds", type=float, default=60.0, help="after them the best plan found stands")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        purchase = _purchase(Path(given["file"]))
        gap = 0.0 if len(purchase.needs) <= FEW_NEEDS else GAP
        said = plan_as_json(cheapest_plan(purchase, gap=gap, seconds=given["seconds"]))
        self.stdout.write(json.dumps(said, ensure_ascii=False) if given["json"] else _words(said, purchase.currency))


def _purchase(file: Path) -> Purchase:
    """Raises TallyError with all that is wrong in one line."""
    try:
        return read_purchase(_document(file))
    except ProblemsError as error:
        told = [str(problem) for problem in error.problems[:_TOLD]]
        more = len(error.problems) - len(told)
        raise TallyError("; ".join(told) + (f"; and {more} more" if more else "")) from None


def _document(file: Path) -> Any:
    if file.stat().st_size > MOST_BYTES:
        raise TallyError(f"{file} is larger than a purchase can be.")
    try:
        return json.loads(file.read_bytes().decode("utf-8-sig"), parse_float=str)
    except (ValueError, RecursionError):
        raise TallyError(f"{file} is not JSON.") from None


def _words(said: dict[str, Any], currency: str) -> str:
    lines = [
        f"total {said['total']} {currency}, proven at least {said['bound']}, line by line {said['line_by_line'] or 'not possible'}"
    ]
    for order in said["orders"]:
        lines.append(
            f"{order['supplier']}: goods {order['goods']}, freight {order['freight']}, charge {order['charge']}"
        )
        lines += [
            f"  {line['part']:24} {line['quantity']:>16} × {line['price']} = {line['cost']}  surplus {line['surplus']}"
            for line in order["lines"]
        ]
    return "\n".join([*lines, *(f"{u['part']}: {u['reason']}. {u['detail']}" for u in said["uncovered"])])
