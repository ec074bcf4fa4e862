"""Workers of their own on the test's database, for tests of what happens when they live and when they die."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from django.db import connection
from django.test import TransactionTestCase, override_settings

__all__ = ["WithWorkers", "until"]

_MANAGE = Path(__file__).resolve().parents[2] / "manage.py"
_QUEUE = "django_tasks_db.DatabaseBackend"


def until(holds: Callable[[], object], what: str) -> None:
    end = time.monotonic() + 60
    while not holds():
        assert time.monotonic() < end, f"{what} did not come about"
        time.sleep(0.05)


@override_settings(TASKS={"default": {"BACKEND": _QUEUE}})
class WithWorkers(TransactionTestCase):
    def worker(self, *more: str) -> subprocess.Popen:
        """A worker process; with ``--batch`` it ends when nothing is left to do."""
        s = connection.settings_dict
        url = f"postgres://{s['USER']}:{s['PASSWORD']}@{s['HOST']}:{s['PORT']}/{s['NAME']}"
        started = subprocess.Popen(
            [sys.executable, str(_MANAGE), "work", *more],
            env=os.environ | {"DATABASE_URL": url, "TALLY_TASKS": _QUEUE},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(started.wait)
        self.addCleanup(started.kill)
        return started
