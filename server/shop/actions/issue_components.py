"""The store issues what an order takes, takes back what it did not need, and gives another part where one is not there (rule W3)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from definition.models.parts import Part
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.basics.kinds import PART_KIND
from tally_core.shop.kept_plan import read_plan
from tally_core.stated.reading import RecordReader
from verbs.contract import writing
from verbs.parts.post_stock import StockPost

from shop.ledger import Row, moment, open_book, write_entry, written
from shop.models import Entry
from shop.order_states import require_now
from shop.taking import taking

__all__ = ["Issue", "issue_components"]


@dataclass(frozen=True, slots=True)
class Issue:
    """So much of a component, as typed; less than nothing where it comes back. ``instead``: the part that is given in its place, of which
    the quantity stands for ``stands_for``. Without a component, ``instead`` is taken beyond the list.
    ``codes``: which lots or serial numbers, and how much of each; the oldest where none are given."""

    component: int | None
    quantity: str
    instead: str = ""
    stands_for: str = ""
    codes: Sequence[tuple[str, str]] = ()


def issue_components(
    user: Any, order_id: int, key: UUID, issues: Sequence[Issue], at: datetime | None = None, done_by: str = "", reason: str = ""
) -> Entry:
    """Issue them all or none, once for a key. What stands in for another part, and what no list asks for, needs a reason.

    Raises ProblemsError placing each problem at its row, MissingError and Refused.
    """
    with writing(user, "shop reports"):
        book = open_book(order_id)
        told = written(book, key)
        if told is not None:
            return told
        require_now(book.order, "report")
        when = moment(book, at)
        why = " ".join(reason.split())
        if len(why) > 300 or not why.isprintable():
            raise ProblemsError([Problem("reason", "at most 300 characters that can be printed")])
        plan = read_plan(book.order.plan or {})
        components = {c.row: c for c in book.components}
        others = {p.number: p for p in Part.objects.filter(number__in={i.instead for i in issues if i.instead})}
        problems: list[Problem] = []
        rows: list[Row] = []
        for i, issue in enumerate(issues):
            place = f"issues[{i}]"
            component = components.get(issue.component) if issue.component is not None else None
            other = others.get(issue.instead)
            part = other or (component.part if component else None)
            if part is None or (issue.instead and other is None) or (issue.component is not None and component is None):
                problems.append(
                    Problem(place, f"part {issue.instead} is not known" if issue.instead else "this component is not on the order")
                )
                continue
            quantity = _amount(issue.quantity, f"{place}.quantity", problems)
            if quantity is None or not quantity:
                continue
            codes = tuple((code.strip(), _amount(much or "1", f"{place}.codes", problems) or Decimal(0)) for code, much in issue.codes)
            if part.whole_only and quantity % 1:
                problems.append(Problem(f"{place}.quantity", f"{part.number} is counted in whole units"))
            if other is not None and not why:
                problems.append(Problem("reason", f"say why {other.number} is taken"))
            if component is not None and other is not None and other.pk != component.part_id:
                stands = _amount(issue.stands_for or issue.quantity, f"{place}.stands_for", problems) or Decimal(0)
                if not PART_KIND[other.kind].stocked or stands * quantity <= 0:
                    problems.append(Problem(f"{place}.stands_for", f"say how much of {component.part.number} it stands for"))
                rows += taking(book.order, plan, component, quantity, other, stands, codes)
            elif component is not None:
                if component.issued + quantity < 0:
                    problems.append(Problem(f"{place}.quantity", f"only {component.issued.normalize():f} of {part.number} were issued"))
                rows += taking(book.order, plan, component, quantity, codes=codes)
            else:
                post = StockPost(part.pk, -quantity, f"for {book.order.number}, beyond its list", None, f"{place}.quantity")
                rows.append(Row("issue", part=part.pk, quantity=quantity, stock=post))
        if not rows and not problems:
            problems.append(Problem("issues", "say what was issued"))
        if problems:
            raise ProblemsError(problems)
        return write_entry(user, book, "issue", rows, key, when, done_by, why)


def _amount(text: str, place: str, problems: list[Problem]) -> Decimal | None:
    reader = RecordReader()
    amount = reader.decimal(text, place)
    problems += reader.problems
    if amount is not None and abs(amount) >= Decimal("1e9"):
        problems.append(Problem(place, "a number below 1,000,000,000"))
        return None
    return None if amount is None else round(amount, 9)
