"""What a supplier's service offers for a maker's number, whatever way it was asked; nothing is believed that is not of this form."""

from datetime import date
from decimal import Decimal
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

__all__ = ["OfferedBreak", "ServiceOffer"]

_Number = Annotated[Decimal, Field(ge=0, lt=Decimal("1e12"), allow_inf_nan=False)]
_Above = Annotated[Decimal, Field(gt=0, lt=Decimal("1e9"), allow_inf_nan=False)]


class OfferedBreak(BaseModel):
    """From a quantity on, so much for each ``per`` of them."""

    model_config = ConfigDict(extra="ignore")

    start: _Number
    price: _Number
    per: _Above = Decimal(1)


class ServiceOffer(BaseModel):
    """An offer in pieces, or in ``unit`` where the service names one."""

    model_config = ConfigDict(extra="ignore")

    maker: str = Field("", max_length=200)
    maker_number: str = Field(min_length=1, max_length=200)
    their_number: str = Field("", max_length=200)
    currency: str = Field(pattern="^[A-Z]{3}$")
    unit: str = Field("ea", max_length=20)
    breaks: list[OfferedBreak] = Field(min_length=1, max_length=50)
    minimum: _Number = Decimal(0)
    multiple: _Above | None = None
    available: _Number | None = None
    lead_days: int = Field(0, ge=0, le=10_000)
    valid_to: date | None = None
