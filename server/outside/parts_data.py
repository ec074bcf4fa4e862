"""Data of parts by maker's number, over HTTP; only what has the right types is believed."""

from collections.abc import Callable, Sequence
from urllib.parse import quote

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from outside.calling import CallFailed, ask_each, calling

__all__ = ["PartData", "ask_parts_data"]


class PartData(BaseModel):
    """What the service says of one number. Whatever is of another type or length is not believed."""

    model_config = ConfigDict(strict=True, extra="ignore")

    number: str = Field(max_length=200)
    maker: str = Field("", max_length=200)
    description: str = Field("", max_length=2000)
    lifecycle: str = Field("", pattern="^(active|last buy|ended)?$")
    case: str = Field("", max_length=40)
    values: dict[str, str] = {}
    replacement: str = Field("", max_length=200)


def ask_parts_data(
    address: str,
    numbers: Sequence[str],
    answered: Callable[[str, PartData | None], None],
    goes_on: Callable[[int], None] = lambda done: None,
) -> str:
    """Ask a service for some numbers, several at once.

    Args:
        answered: told each answer as it comes, in the caller's thread; None for a number that the service does not know.
        goes_on: told how many were asked; may raise to end it.

    Answers why some could not be asked, in words; empty where all were.
    """
    with calling(address) as caller:

        def ask(number: str) -> PartData | None:
            said = caller.call("GET", f"/v1/parts/{quote(number, safe='')}")
            try:
                return None if said is None else PartData.model_validate_json(said)
            except ValidationError:
                raise CallFailed("the service answered something else than data of a part") from None

        failed = ask_each(caller, numbers, ask, answered, goes_on)
    return f"{len(failed)} of {len(numbers)} numbers could not be asked: {failed[0]}" if failed else ""
