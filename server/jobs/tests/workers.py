"""Workers of their own on the test's database, for tests of what happens when they live and when they die."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import psycopg
from django.conf import settings
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


@override_settings(TASKS={"default": settings.TASKS["default"] | {"BACKEND": _QUEUE}})
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

    def kill_where(self, locks: str) -> None:
        """Let a worker come to where it needs what a statement locks, and kill it there; its session goes with it.

        What that session waits to write is not to be written after its death.
        """
        s = connection.settings_dict
        with psycopg.connect(host=s["HOST"], port=s["PORT"], user=s["USER"], password=s["PASSWORD"], dbname=s["NAME"]) as other:
            other.execute(locks)
            started = self.worker("--batch")
            # Of this database only: beside it other tests wait for locks of their own.
            waiting = "FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
            until(lambda: _is_so(f"SELECT EXISTS (SELECT {waiting})"), "a worker that waits")
            started.send_signal(signal.SIGKILL)
            started.wait()
            other.execute(f"SELECT pg_terminate_backend(pid) {waiting}")
            other.rollback()
        held = "FROM pg_locks WHERE locktype = 'advisory' AND database = (SELECT oid FROM pg_database WHERE datname = current_database())"
        until(lambda: not _is_so(f"SELECT EXISTS (SELECT {held})"), "the end of its session")


def _is_so(question: str) -> bool:
    with connection.cursor() as cursor:
        cursor.execute(question)
        return cursor.fetchone()[0]
