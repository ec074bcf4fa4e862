"""A feed of currency rates by day: ``GET rates?since=DAY`` answers what one unit of each is worth in its base."""

from datetime import date
from decimal import Decimal
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from outside.calling import CallFailed, calling
from outside.services import RateService

__all__ = ["ask_rates"]

_Worth = Annotated[Decimal, Field(gt=Decimal("1e-6"), lt=Decimal("1e6"), allow_inf_nan=False)]
_Code = Annotated[str, Field(pattern="^[A-Z]{3}$")]


class _Rates(BaseModel):
    model_config = ConfigDict(extra="ignore")

    base: _Code
    worth: dict[date, dict[_Code, _Worth]] = Field(max_length=1000)


def ask_rates(service: RateService, since: date) -> tuple[str, dict[date, dict[str, Decimal]]]:
    """The base, and by day what one unit of each currency is worth in it. Raises CallFailed."""
    with calling(service.address, key=service.key) as caller:
        said = caller.call("GET", f"rates?since={since.isoformat()}")
    try:
        rates = _Rates.model_validate_json(said or b"")
    except ValidationError:
        raise CallFailed("the service answered something else than rates") from None
    return rates.base, rates.worth
