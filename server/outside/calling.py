"""How a service outside is called: bounded in time, bytes and calls at once, within its limit, tried again, and given up when it is down."""

import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from functools import cache
from typing import TypeVar

import httpx

__all__ = ["CallFailed", "Caller", "ask_each", "calling"]

#: Seconds for one answer, tries for one call, calls at once, and calls in a row that fail until the rest is not made.
TIMEOUT, TRIES, AT_ONCE, GIVE_UP = 2.0, 3, 4, 4
_MOST_BYTES = 2_000_000
#: A little more than a minute: ours begins when a call leaves, theirs when it has come.
_MINUTE = 60.5

Asked = TypeVar("Asked")
Answer = TypeVar("Answer")


#: Reading the certificates takes longer than most calls.
_tls = cache(httpx.create_ssl_context)


class CallFailed(Exception):
    """A call that came to nothing; its text says why, in words."""


class Caller:
    """Calls of one service, from several threads.

    Args:
        key: told in the header of each call, and nowhere else.
        a_minute: calls that the service takes in any minute; None: as many as one likes.
        longest: seconds that are waited at most where it says that it takes no more just now.
        most: bytes of an answer that are taken.
    """

    def __init__(
        self, client: httpx.Client, *, key: str = "", a_minute: int | None = None, longest: float = 3.0, most: int = _MOST_BYTES
    ) -> None:
        self._client, self._a_minute, self._longest, self._most = client, a_minute, longest, most
        self._headers = {"Authorization": f"Bearer {key}"} if key else {}
        self._made: deque[float] = deque()
        self._lock = threading.Lock()
        self.down = threading.Event()

    def call(self, method: str, path: str, content: bytes | None = None, kind: str = "") -> bytes | None:
        """One answer; None where the service does not know what it is asked for (404). Raises CallFailed."""
        words = "the service is down"
        headers = self._headers | ({"Content-Type": kind} if kind else {})
        for attempt in range(TRIES):
            if attempt:
                self.down.wait(0.2 * 2**attempt)
            self._take_turn()
            if self.down.is_set():
                raise CallFailed("the service is down")
            try:
                with self._client.stream(method, path, content=content, headers=headers) as answer:
                    if answer.status_code == 404:
                        return None
                    if answer.status_code in (401, 403):
                        # The next call is refused as well.
                        self.down.set()
                        raise CallFailed("the service does not take our account")
                    if answer.status_code == 429:
                        words = "the service takes no more calls just now"
                        self.down.wait(self._wait(answer.headers.get("Retry-After", "")))
                        continue
                    if answer.status_code != 200:
                        words = f"the service answered {answer.status_code}"
                        continue
                    return self._body(answer)
            except httpx.TimeoutException:
                words = self._late()
            except httpx.HTTPError:
                words = "the service could not be reached"
        raise CallFailed(words)

    def once(self, method: str, path: str, content: bytes | None, headers: dict[str, str], known_as: str = "") -> tuple[int, bytes]:
        """One call that is not made again whatever becomes of it: its status and what it says. Raises CallFailed where nothing came.

        ``known_as``: the name that its certificate must be of, where the address is a number.
        """
        more = {"sni_hostname": known_as} if known_as else {}
        try:
            with self._client.stream(method, path, content=content, headers=self._headers | headers, extensions=more) as answer:
                return answer.status_code, self._body(answer)
        except httpx.TimeoutException:
            raise CallFailed(self._late()) from None
        except httpx.HTTPError:
            raise CallFailed("the service broke off") from None

    def _late(self) -> str:
        return f"the service did not answer within {self._client.timeout.read:g} seconds"

    def _body(self, answer: httpx.Response) -> bytes:
        content, until = b"", time.monotonic() + 2 * (self._client.timeout.read or TIMEOUT)
        for piece in answer.iter_bytes():
            content += piece
            if len(content) > self._most or time.monotonic() > until:
                raise httpx.ReadTimeout("too much, or too slow")
        return content

    def _take_turn(self) -> None:
        """Wait until one more call is within the limit of any minute."""
        while self._a_minute and not self.down.is_set():
            with self._lock:
                now = time.monotonic()
                while self._made and now - self._made[0] >= _MINUTE:
                    self._made.popleft()
                if len(self._made) < self._a_minute:
                    self._made.append(now)
                    return
                wait = _MINUTE - (now - self._made[0])
            self.down.wait(wait)

    def _wait(self, said: str) -> float:
        return min(float(said), self._longest) if said.isdecimal() else 1.0


@contextmanager
def calling(
    address: str, *, key: str = "", a_minute: int | None = None, longest: float = 3.0, timeout: float | None = None, most: int = _MOST_BYTES
) -> Iterator[Caller]:
    """A way to call a service, as long as it is needed; ``timeout`` in seconds, :data:`TIMEOUT` unless it is stated."""
    limits = httpx.Limits(max_connections=AT_ONCE)
    with httpx.Client(base_url=address, timeout=timeout or TIMEOUT, limits=limits, verify=_tls()) as client:
        yield Caller(client, key=key, a_minute=a_minute, longest=longest, most=most)


def ask_each(
    caller: Caller,
    asked: Sequence[Asked],
    ask: Callable[[Asked], Answer],
    answered: Callable[[Asked, Answer], None],
    goes_on: Callable[[int], None] = lambda done: None,
) -> list[str]:
    """Ask for each of some things, several at once. Answers why some could not be asked, in words.

    Args:
        ask: makes the calls for one; raises CallFailed.
        answered: told each answer in the order of ``asked``, in the caller's thread.
        goes_on: told how many were asked; may raise to end it.
    """
    failed: list[str] = []
    in_a_row = 0
    with ThreadPoolExecutor(AT_ONCE) as pool:
        waiting = [(one, pool.submit(ask, one)) for one in asked]
        try:
            for done, (one, future) in enumerate(waiting, 1):
                try:
                    answered(one, future.result())
                    in_a_row = 0
                except CallFailed as error:
                    failed.append(str(error))
                    in_a_row += 1
                    if in_a_row >= GIVE_UP:
                        # It is down: who waits behind is not kept waiting.
                        caller.down.set()
                goes_on(done)
        except BaseException:
            caller.down.set()
            raise
    return failed
