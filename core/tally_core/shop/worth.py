"""Rule W6: what stock is worth, by element, as it comes and goes."""

from dataclasses import dataclass, field
from decimal import ROUND_HALF_EVEN, Decimal

__all__ = ["Worth"]

_STEP = Decimal("1e-9")
_NONE = Decimal(0)


def _kept(amount: Decimal) -> Decimal:
    return amount.quantize(_STEP, ROUND_HALF_EVEN)


@dataclass(slots=True)
class Worth:
    """So many of a part, in its stock unit, and what they are worth together: currency by element, nine decimals.

    What comes in adds what it cost; what goes out takes its share, and the last one all that is left: so what came in is always worth
    what went out and what is there. The mean is the worth of one.
    """

    quantity: Decimal = _NONE
    elements: dict[str, Decimal] = field(default_factory=dict)

    @property
    def value(self) -> Decimal:
        """Currency, all elements together."""
        return sum(self.elements.values(), _NONE)

    def mean(self) -> dict[str, Decimal] | None:
        """The worth of one by element; None where nothing is there.

        >>> Worth(Decimal(4), {"material": Decimal(10)}).mean()
        {'material': Decimal('2.5')}
        """
        if self.quantity <= 0:
            return None
        return {name: amount / self.quantity for name, amount in self.elements.items()}

    def put(self, quantity: Decimal, cost: dict[str, Decimal]) -> dict[str, Decimal]:
        """Rule W6: so many come in for what they cost; answers that, as it is kept.

        >>> held = Worth(Decimal(10), {"material": Decimal(30)})
        >>> _ = held.put(Decimal(5), {"material": Decimal(18), "labor": Decimal(3)})
        >>> held.value / held.quantity
        Decimal('3.400000000')
        """
        came = {name: _kept(amount) for name, amount in cost.items() if amount}
        self.quantity += quantity
        for name, amount in came.items():
            self.elements[name] = self.elements.get(name, _NONE) + amount
        return came

    def take(self, quantity: Decimal) -> dict[str, Decimal]:
        """So many go out; answers what they were worth. Raises ValueError for more than are there."""
        if quantity > self.quantity:
            raise ValueError("more than is there")
        if quantity == self.quantity:
            gone = self.elements
            self.quantity, self.elements = _NONE, {}
            return {name: amount for name, amount in gone.items() if amount}
        gone = {name: _kept(amount * quantity / self.quantity) for name, amount in self.elements.items()}
        self.quantity -= quantity
        self.elements = {name: amount - gone[name] for name, amount in self.elements.items()}
        return {name: amount for name, amount in gone.items() if amount}

    def stand_at(self, price: dict[str, Decimal]) -> dict[str, Decimal]:
        """What is there is worth so much for one from now on; answers by how much more that is, by element.

        >>> held = Worth(Decimal(4), {"material": Decimal(10), "labor": Decimal(1)})
        >>> held.stand_at({"material": Decimal(3)})
        {'material': Decimal('2.000000000'), 'labor': Decimal('-1.000000000')}
        """
        after = {name: _kept(amount * self.quantity) for name, amount in price.items() if amount and self.quantity}
        names = dict.fromkeys([*self.elements, *after])
        moved = {name: _kept(after.get(name, _NONE) - self.elements.get(name, _NONE)) for name in names}
        self.elements = after
        return {name: amount for name, amount in moved.items() if amount}
