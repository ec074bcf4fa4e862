"""A worker that is killed in the middle: a real process, a real PostgreSQL, a real SIGKILL."""

import signal

import psycopg
from django.db import connection
from django.utils.timezone import localdate
from jobs.tests.workers import WithWorkers, until
from standards.models import Revaluation, Round, Standard, Tally, TallyInputs, TallyRow
from testing import load, person, rod_and_tube
from verbs.parts.move_stock import move_stock

from rounds.actions.accept_round import ask_to_accept
from rounds.actions.open_round import open_round
from rounds.actions.propose import propose
from rounds.actions.tally_round import ask_for_tally
from rounds.reads import round_head


class Killed(WithWorkers):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.user = person("accountant")
        move_stock(person("engineer"), "ROD", "20", "counted")
        self.round = open_round(self.user, {"name": "Metal up", "first_day": localdate().isoformat()})
        propose(self.user, self.round.pk, [{"table": "part", "key": "ROD", "field": "unit_cost", "value": "4"}])

    def kill_in_the_middle(self, table: str) -> None:
        """Let a worker come as far as writing to a table that is held shut, kill it there, and open the table."""
        s = connection.settings_dict
        with psycopg.connect(host=s["HOST"], port=s["PORT"], user=s["USER"], password=s["PASSWORD"], dbname=s["NAME"]) as other:
            other.execute(f"LOCK TABLE {table} IN ACCESS EXCLUSIVE MODE")
            started = self.worker("--batch", "--interval", "0.05")
            waits = "SELECT EXISTS (SELECT FROM pg_locks WHERE relation = %s::regclass AND NOT granted)"
            until(lambda: self.asked(waits, [table]), "a worker that waits")
            head = round_head(Round.objects.get(pk=self.round.pk))
            self.assertNotEqual(head["job"]["doing"], "")
            self.assertGreater(head["job"]["step"], 0)
            started.send_signal(signal.SIGKILL)
            started.wait()
            other.rollback()
        until(
            lambda: (
                not self.asked(
                    "SELECT EXISTS (SELECT FROM pg_locks WHERE locktype = 'advisory' AND database = (SELECT oid FROM pg_database WHERE datname = current_database()))"
                )
            ),
            "the end of its session",
        )

    @staticmethod
    def asked(sql: str, params: list | None = None) -> bool:
        with connection.cursor() as cursor:
            cursor.execute(sql, params)
            return cursor.fetchone()[0]

    def done(self) -> dict:
        """Have it done by a worker that lives, and look at the round."""
        self.assertEqual(self.worker("--batch", "--interval", "0.05").wait(60), 0)
        return round_head(Round.objects.get(pk=self.round.pk))

    def test_in_the_middle_of_a_tally_and_of_accepting(self) -> None:
        ask_for_tally(self.user, self.round.pk)
        # Its rows are written by then; what it was made from comes last.
        self.kill_in_the_middle(TallyInputs._meta.db_table)
        self.assertEqual((Tally.objects.count(), TallyRow.objects.count()), (0, 0))
        head = round_head(Round.objects.get(pk=self.round.pk))
        self.assertEqual((head["status"], head["job"], head["tally"]), ("open", None, None))
        self.assertIn("The worker ended in the middle of the tally of Metal up (keeping 3 parts); nothing was changed", head["failed"])

        ask_for_tally(self.user, self.round.pk)
        head = self.done()
        self.assertEqual((head["failed"], head["tally"]["parts"], TallyRow.objects.count()), ("", 3, 3))

        # Again over one that is there: the killed one leaves the last one whole.
        ask_for_tally(self.user, self.round.pk)
        self.kill_in_the_middle(TallyInputs._meta.db_table)
        self.assertEqual((Tally.objects.count(), TallyRow.objects.count(), TallyInputs.objects.count()), (1, 3, 1))

        version = Round.objects.get(pk=self.round.pk).version
        ask_to_accept(self.user, self.round.pk, version)
        # Its standards are written by then.
        self.kill_in_the_middle(Revaluation._meta.db_table)
        self.assertEqual((Standard.objects.count(), Revaluation.objects.count()), (0, 0))
        head = round_head(Round.objects.get(pk=self.round.pk))
        self.assertEqual((head["status"], head["job"], head["tally"]["stale"]), ("open", None, []))
        self.assertIn("in the middle of accepting Metal up", head["failed"])

        ask_to_accept(self.user, self.round.pk, version)
        head = self.done()
        self.assertEqual((head["status"], head["failed"], head["closed_by"]), ("accepted", "", "accountant"))
        self.assertEqual((Standard.objects.count(), Revaluation.objects.get().after), (3, 4_000_000))
