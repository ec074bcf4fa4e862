"""Data of parts by maker's number, over HTTP: bounded in time, in calls at once and in what is believed."""

import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from urllib.parse import quote

import httpx
from pydantic import BaseModel, ConfigDict, Field, ValidationError

__all__ = ["PartData", "ask_parts_data"]

#: Seconds for one answer, tries for one number, calls at once, and numbers in a row that fail until the rest is not asked.
TIMEOUT, TRIES, AT_ONCE, GIVE_UP = 2.0, 3, 4, 4
_MOST_BYTES = 100_000
_LONGEST_WAIT = 3.0


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
    down = Event()
    failed: list[str] = []
    in_a_row = 0
    with (
        httpx.Client(base_url=address, timeout=TIMEOUT, limits=httpx.Limits(max_connections=AT_ONCE)) as client,
        ThreadPoolExecutor(AT_ONCE) as pool,
    ):
        waiting = [(n, pool.submit(_ask, client, n, down)) for n in numbers]
        try:
            for done, (number, future) in enumerate(waiting, 1):
                said = future.result()
                if isinstance(said, str):
                    failed.append(said)
                    in_a_row += 1
                    if in_a_row >= GIVE_UP:
                        # It is down: who waits behind is not kept waiting.
                        down.set()
                else:
                    in_a_row = 0
                    answered(number, said)
                goes_on(done)
        except BaseException:
            down.set()
            raise
    if not failed:
        return ""
    return f"{len(failed)} of {len(numbers)} numbers could not be asked: {failed[0]}"


def _ask(client: httpx.Client, number: str, down: Event) -> PartData | str | None:
    """One answer: data, None for a number that is not known, or why there is none, in words."""
    words = "the service is down"
    for attempt in range(TRIES):
        if down.is_set():
            return "the service is down"
        if attempt:
            down.wait(0.2 * 2**attempt)
        try:
            with client.stream("GET", f"/v1/parts/{quote(number, safe='')}") as answer:
                if answer.status_code == 404:
                    return None
                if answer.status_code == 429:
                    words = "the service takes no more calls just now"
                    down.wait(_wait(answer.headers.get("Retry-After", "")))
                    continue
                if answer.status_code != 200:
                    words = f"the service answered {answer.status_code}"
                    continue
                return PartData.model_validate_json(_body(answer))
        except ValidationError:
            return "the service answered something else than data of a part"
        except httpx.TimeoutException:
            words = f"the service did not answer within {TIMEOUT:.0f} seconds"
        except httpx.HTTPError:
            words = "the service could not be reached"
    return words


def _wait(said: str) -> float:
    return min(float(said), _LONGEST_WAIT) if said.isdecimal() else 1.0


def _body(answer: httpx.Response) -> bytes:
    content, until = b"", time.monotonic() + 2 * TIMEOUT
    for piece in answer.iter_bytes():
        content += piece
        if len(content) > _MOST_BYTES or time.monotonic() > until:
            raise httpx.ReadTimeout("too much, or too slow")
    return content
