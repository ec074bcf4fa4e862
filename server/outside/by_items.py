"""A supplier that answers for one maker's number at a time, in JSON: ``GET v1/items/NUMBER``."""

from decimal import Decimal
from typing import Any
from urllib.parse import quote

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from tally_core.pairing.numbers import fold

from outside.calling import Caller, CallFailed
from outside.offered import OfferedBreak, ServiceOffer

__all__ = ["AT_A_TIME", "ask"]

#: Numbers that one call asks for.
AT_A_TIME = 1
_Number = int | Decimal | None


class _Price(BaseModel):
    model_config = ConfigDict(extra="ignore")

    start: int | Decimal = Field(alias="from")
    price: str
    per: int = 1


class _Item(BaseModel):
    model_config = ConfigDict(extra="ignore")

    maker: str = ""
    makerNumber: str
    article: str = ""
    currency: str
    prices: list[_Price] = Field(max_length=50)
    smallestOrder: _Number = None
    pack: _Number = None
    inStock: _Number = None
    daysToDispatch: int = 0


def ask(caller: Caller, numbers: list[str]) -> dict[str, ServiceOffer]:
    """What is offered for some makers' numbers; those without an offer are left out. Raises CallFailed."""
    found = {}
    for number in numbers:
        said = caller.call("GET", f"v1/items/{quote(number, safe='')}")
        if said is not None:
            found[number] = _read(number, said)
    return found


def _read(number: str, said: bytes) -> ServiceOffer:
    try:
        item = _Item.model_validate_json(said)
        if fold(item.makerNumber) != fold(number):
            raise CallFailed("the service answered for another number than it was asked for")
        fields: dict[str, Any] = {
            "maker": item.maker,
            "maker_number": number,
            "their_number": item.article,
            "currency": item.currency,
            "breaks": [OfferedBreak(start=Decimal(p.start), price=Decimal(p.price), per=Decimal(p.per)) for p in item.prices],
            "minimum": item.smallestOrder or 0,
            "multiple": item.pack or None,
            "available": item.inStock,
            "lead_days": item.daysToDispatch,
        }
        return ServiceOffer(**fields)
    except (ValidationError, ArithmeticError):
        raise CallFailed("the service answered something else than an offer") from None
