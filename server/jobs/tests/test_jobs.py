"""A worker that is not there, or dies in the middle, is said wherever somebody waits for it, and the job can be run again."""

import signal

import psycopg
from django.db import connection
from findings.models import Survey
from intake.models import Intake
from testing import Api, load, rod_and_tube

from jobs.presence import worker_is_there
from jobs.tests.workers import WithWorkers, until


class Workers(WithWorkers):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.api = Api("engineer")

    def test_who_waits_is_told_that_no_worker_is_there_and_then_that_one_is(self) -> None:
        status, said = self.api.upload("list.csv", b"part;quantity\nA;1\n")
        self.assertEqual((status, said["state"]), (200, "waiting"))
        self.assertIn("no worker is running", said["message"])
        self.assertFalse(worker_is_there())
        self.assertIn("no worker is running", self.api.post("/findings/survey", {})[1]["doing"])
        key = self.api.post("/rounds", {"name": "Up", "first_day": "2027-01-01"})[1]["id"]
        self.assertIn("no worker is running", self.api.post(f"/rounds/{key}/tally", {})[1]["doing"])
        self.worker()
        until(worker_is_there, "a worker")
        until(lambda: self.api.get(f"/intake/{said['id']}")[1]["state"] == "read", "a list that is read")
        until(lambda: self.api.get("/findings/survey")[1]["finished_at"], "a check")

    def test_a_list_whose_worker_died_is_failed_and_read_again(self) -> None:
        s = connection.settings_dict
        said = self.api.upload("list.csv", b"part;quantity\nA;1\n")[1]
        with psycopg.connect(
            host=s["HOST"], port=s["PORT"], user=s["USER"], password=s["PASSWORD"], dbname=s["NAME"]
        ) as other:
            started = self.worker("--batch")
            # The row is held, so that the worker stops where it keeps what it read.
            until(lambda: Intake.objects.get().state != "waiting" or self.hold(other), "a worker at the list")
            until(lambda: self.waits(), "a worker that waits")
            started.send_signal(signal.SIGKILL)
            started.wait()
            other.rollback()
        Intake.objects.filter(state="waiting").update(state="reading")
        until(lambda: not self.locks(), "the end of its session")
        found = self.api.get(f"/intake/{said['id']}")[1]
        self.assertEqual((found["state"], found["again"]), ("failed", True))
        self.assertIn("The worker ended while it read list.csv", found["message"])
        self.assertEqual(self.api.post(f"/intake/{said['id']}/again", {})[1]["state"], "waiting")
        self.worker("--batch").wait(60)
        self.assertEqual(self.api.get(f"/intake/{said['id']}")[1]["state"], "read")
        self.assertEqual(self.api.post(f"/intake/{said['id']}/again", {})[0], 422)

    @staticmethod
    def hold(other: psycopg.Connection) -> bool:
        other.execute("SELECT 1 FROM intake_intake FOR UPDATE")
        return True

    @staticmethod
    def waits() -> bool:
        with connection.cursor() as cursor:
            cursor.execute("SELECT EXISTS (SELECT FROM pg_locks WHERE NOT granted)")
            return cursor.fetchone()[0]

    @staticmethod
    def locks() -> bool:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT EXISTS (SELECT FROM pg_locks WHERE locktype = 'advisory' AND database = (SELECT oid FROM pg_database WHERE datname = current_database()))"
            )
            return cursor.fetchone()[0]

    def test_a_check_whose_worker_died_is_said_and_asked_for_again(self) -> None:
        self.api.post("/findings/survey", {})
        Survey.objects.update(doing="checking 5 lines")
        found = self.api.get("/findings/survey")[1]
        self.assertEqual((found["failed"], "worker ended" in found["doing"]), (True, True))
        self.assertIn("waiting", self.api.post("/findings/survey", {})[1]["doing"])
        self.assertEqual(Survey.objects.count(), 2)
