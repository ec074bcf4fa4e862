"""Whether a worker is there, so that whoever waits for one is told."""

import threading

from django.conf import settings
from django.db import DatabaseError, connection

from jobs.locks import WORKER, in_hand

__all__ = ["show_presence", "waiting_words", "worker_is_there"]

_LOOK = 2.0


def worker_is_there() -> bool:
    """Whether some worker process lives; always where tasks are run at once, without one."""
    return "immediate" in settings.TASKS["default"]["BACKEND"] or in_hand(WORKER)


def waiting_words() -> str:
    """What to tell whoever waits for the worker."""
    if worker_is_there():
        return "waiting for the worker"
    return "waiting: no worker is running just now; it goes on by itself when one is"


def show_presence() -> threading.Thread:
    """Let others see that this process works, until it ends; through a connection of its own."""
    thread = threading.Thread(target=_be_seen, name="presence", daemon=True)
    thread.start()
    return thread


def _be_seen() -> None:
    ending = threading.Event()
    held = False
    while not ending.wait(0 if not held else _LOOK):
        try:
            with connection.cursor() as cursor:
                cursor.execute("SELECT 1" if held else f"SELECT pg_advisory_lock_shared({WORKER}, 0)")
            held = True
        except DatabaseError:
            # The lock went with the connection; both are taken anew.
            connection.close()
            held = False
            ending.wait(_LOOK)
