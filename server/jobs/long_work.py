"""Work that may take seconds of a request: only some of it at once, so that short requests always find a free thread."""

import threading
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

from tally_core.basics.errors import TallyError

__all__ = ["Busy", "long_work"]

#: Of the eight threads of a process; and how long a request waits for its turn, in seconds.
AT_ONCE, PATIENCE = 3, 20.0
_turns = threading.BoundedSemaphore(AT_ONCE)

F = TypeVar("F", bound=Callable[..., Any])


class Busy(TallyError):
    """Too much of this is asked for at once."""


def long_work(view: F) -> F:
    """Have a call of the API take its turn. Raises Busy when none comes."""

    @wraps(view)
    def taking_turns(*args: Any, **more: Any) -> Any:
        if not _turns.acquire(timeout=PATIENCE):
            raise Busy("Others have long lists made just now; try again in a moment.")
        try:
            return view(*args, **more)
        finally:
            _turns.release()

    return taking_turns  # type: ignore[return-value]
