"""Asking the services of several suppliers at once, each within its own limit."""

import queue
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from outside import by_items, by_quotation
from outside.calling import Caller, ask_each, calling
from outside.offered import ServiceOffer
from outside.services import SupplierService

__all__ = ["Said", "ask_suppliers"]

_KINDS = {"items": by_items, "quotation": by_quotation}
#: Seconds that are waited where a supplier takes no more calls: a minute has passed then.
_LONGEST = 61.0


@dataclass(frozen=True, slots=True)
class Said:
    """What the service of a supplier said of some numbers: an offer each, or None for what it does not have. ``failed``: why it said nothing."""

    name: str
    offers: Mapping[str, ServiceOffer | None]
    failed: str = ""


def ask_suppliers(asked: Mapping[str, tuple[SupplierService, Sequence[str]]], goes_on: Callable[[], None] = lambda: None) -> Iterator[Said]:
    """Ask some services, by name, for some makers' numbers each; what they say comes as they say it, in the caller's thread.

    Where some numbers of a service failed, a last word of it says how many and why. ``goes_on`` is called at least once a second, and may
    raise to end it all.
    """
    said: queue.SimpleQueue[Said | None] = queue.SimpleQueue()
    callers: list[Caller] = []
    ended = threading.Event()

    def ask_one(name: str, service: SupplierService, numbers: Sequence[str]) -> None:
        kind = _KINDS[service.kind]
        groups = [list(numbers[i : i + kind.AT_A_TIME]) for i in range(0, len(numbers), kind.AT_A_TIME)]

        def answered(group: list[str], found: dict[str, ServiceOffer]) -> None:
            said.put(Said(name, {n: found.get(n) for n in group}))

        try:
            with calling(service.address, key=service.key, a_minute=service.calls_a_minute, longest=_LONGEST) as caller:
                callers.append(caller)
                if ended.is_set():
                    caller.down.set()
                failed = ask_each(caller, groups, lambda group: kind.ask(caller, group), answered)
            if failed:
                said.put(Said(name, {}, f"{len(failed)} of {len(groups)} calls came to nothing: {failed[0]}"))
        except Exception as error:
            said.put(Said(name, {}, f"it could not be asked ({type(error).__name__})"))
        finally:
            said.put(None)

    threads = [threading.Thread(target=ask_one, args=(name, service, numbers), daemon=True) for name, (service, numbers) in asked.items()]
    for thread in threads:
        thread.start()
    try:
        running = len(threads)
        while running:
            goes_on()
            try:
                one = said.get(timeout=0.5)
            except queue.Empty:
                continue
            if one is None:
                running -= 1
            else:
                yield one
    finally:
        ended.set()
        for caller in callers:
            caller.down.set()
        for thread in threads:
            thread.join()
