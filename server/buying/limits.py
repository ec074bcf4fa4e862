"""What a plan may and may not do, as it is kept with it."""

from dataclasses import asdict, dataclass, field, replace
from decimal import Decimal
from typing import Any

from tally_core.basics.errors import Problem, ProblemsError

from buying.models import BuyPlan
from buying.typed_number import typed_number

__all__ = ["Limits", "limits_of"]

FORMAT = 1
_MOST_SECONDS = 600


@dataclass(slots=True)
class Limits:
    """How a plan is to be made; decimals as text, percent of the need or of the price paid."""

    split: int = 1
    surplus_percent: str | None = None
    surplus_worth_percent: str = "0"
    hold_to_days: bool = True
    most_suppliers: int | None = None
    # Names of suppliers that are not used.
    barred: list[str] = field(default_factory=list)
    # Makers whose numbers are not bought.
    barred_makers: list[str] = field(default_factory=list)
    # Prices that were said longer ago are not used.
    oldest_days: int | None = None
    use_stock: bool = True
    use_orders: bool = True
    drafts: bool = False
    seconds: int = 60

    def plain(self) -> dict[str, Any]:
        """As it is shown, and as a plan keeps what it was made within."""
        return {"format": FORMAT} | asdict(self)

    def kept(self) -> dict[str, Any]:
        """As it is kept with a plan: the suppliers that are not used stand in rows of their own, which follow their names."""
        return {name: value for name, value in self.plain().items() if name != "barred"}

    @classmethod
    def of(cls, kept: dict[str, Any]) -> "Limits":
        """What was kept; what did not exist then stands as it stands for a new plan."""
        return cls(**{n: v for n, v in kept.items() if n in cls.__dataclass_fields__})

    def checked(self) -> "Limits":
        """The same. Raises ProblemsError naming each limit that cannot be."""
        problems = []
        if not 1 <= self.split <= 5:
            problems.append(Problem("split", "a need is spread over 1 to 5 offers"))
        if self.most_suppliers is not None and not 1 <= self.most_suppliers <= 1000:
            problems.append(Problem("most_suppliers", "at least one supplier, or none stated"))
        if self.oldest_days is not None and not 0 <= self.oldest_days <= 10_000:
            problems.append(Problem("oldest_days", "whole days up to 10,000, or none stated"))
        names = [" ".join(n.split()) for n in self.barred_makers]
        self.barred_makers = [n for n in dict.fromkeys(names) if n]
        if len(self.barred_makers) > 200 or any(len(n) > 200 or not n.isprintable() for n in self.barred_makers):
            problems.append(Problem("barred_makers", "at most 200 names of 200 characters"))
        if not 1 <= self.seconds <= _MOST_SECONDS:
            problems.append(Problem("seconds", f"1 to {_MOST_SECONDS} seconds"))
        for name, most in (("surplus_percent", Decimal(100_000)), ("surplus_worth_percent", Decimal(100))):
            text = getattr(self, name)
            if text is None and name == "surplus_percent":
                continue
            number = typed_number(text)
            if number is None or not 0 <= number <= most:
                problems.append(Problem(name, f"a share in percent from 0 to {most:f}"))
            else:
                setattr(self, name, f"{number:f}")
        if problems:
            raise ProblemsError(problems)
        return self


def limits_of(plan: BuyPlan) -> Limits:
    """The limits of a plan; the names of suppliers are those that they have now. One query where ``barred`` is not read with it."""
    return replace(Limits.of(plan.limits), barred=sorted(str(x.supplier_id) for x in plan.barred.all()))
