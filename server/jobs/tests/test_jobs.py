"""A worker that is not there, or dies in the middle, is said wherever somebody waits for it, and the job can be run again."""

from concurrent.futures import ThreadPoolExecutor

from django.db import connection, transaction
from django.utils.timezone import now
from inquiries.models import InquiryFile
from loading.moment import one_moment
from tally_core.basics.errors import TallyError
from testing import Api, load, rod_and_tube

from jobs.models import Job
from jobs.presence import worker_is_there
from jobs.tests.workers import WithWorkers, until
from jobs.work import JobState, Tell, ask_for, carry_out, job_state, last_job


class Workers(WithWorkers):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.api = Api("engineer")

    def test_who_waits_is_told_that_no_worker_is_there_and_then_that_one_is(self) -> None:
        at = self.api.inquiry()
        status, said = self.api.upload("list.csv", b"part;quantity\nA;1\n", f"{at}/files")
        self.assertEqual((status, said["files"][0]["role"]), (200, "unread"))
        self.assertIn("no worker is running", said["job"]["doing"])
        self.assertFalse(worker_is_there())
        self.assertIn("no worker is running", self.api.post("/findings/survey", {})[1]["job"]["doing"])
        key = self.api.post("/rounds", {"name": "Up", "first_day": "2027-01-01"})[1]["id"]
        self.assertIn("no worker is running", self.api.post(f"/rounds/{key}/tally", {})[1]["job"]["doing"])
        self.worker()
        until(worker_is_there, "a worker")
        until(lambda: self.api.get(at)[1]["files"][0]["role"] == "list", "a list that is read")
        until(lambda: self.api.get("/findings/survey")[1]["finished_at"], "a check")

    def test_one_that_ends_while_an_answer_is_made_is_not_said_to_be_cut_off(self) -> None:
        """The answer is of the moment before, in which it ran; the lock is of now, and is gone."""
        with transaction.atomic():
            job = ask_for("findings", 0, "checking", "engineer")
        Job.objects.filter(pk=job.pk).update(begun_at=now(), doing="looking")
        with one_moment():
            held = last_job("findings")
            with ThreadPoolExecutor(1) as worker:
                worker.submit(self.ended, job.pk).result()
            state = job_state(held)
        self.assertEqual((state.doing, state.failed), ("looking", ""))
        self.assertEqual(job_state(last_job("findings")), JobState(job.pk, "checking", "engineer"))

    @staticmethod
    def ended(job_id: int) -> None:
        Job.objects.filter(pk=job_id).update(ended_at=now(), doing="")
        connection.close()

    def test_a_list_whose_worker_died_is_failed_and_read_again(self) -> None:
        at = self.api.inquiry()
        said = self.api.upload("list.csv", b"part;quantity\nA;1\n", f"{at}/files")[1]
        # The row is held, so that the worker stops where it keeps what it read.
        self.kill_where("SELECT 1 FROM inquiries_inquiry FOR UPDATE")
        found = self.api.get(at)[1]["files"][0]
        self.assertEqual((found["role"], found["job"], found["lines"]), ("unread", None, 0))
        self.assertIn("The worker ended in the middle of reading list.csv (reading its lines)", found["failed"])
        again = self.api.post(f"{at}/files/{said['files'][0]['id']}/again", {})[1]
        self.assertTrue(again["files"][0]["job"]["waits"])
        self.worker("--batch").wait(60)
        self.assertEqual(self.api.get(at)[1]["files"][0]["role"], "list")

    def test_a_check_whose_worker_died_is_said_and_asked_for_again(self) -> None:
        self.api.post("/findings/survey", {})
        self.kill_where("LOCK TABLE findings_finding, findings_survey IN ACCESS EXCLUSIVE MODE")
        found = self.api.get("/findings/survey")[1]
        self.assertEqual((found["job"], found["finished_at"]), (None, None))
        self.assertIn("The worker ended in the middle of the check of all sheets (keeping", found["failed"])
        self.assertIn("waiting", self.api.post("/findings/survey", {})[1]["job"]["doing"])
        self.worker("--batch").wait(60)
        found = self.api.get("/findings/survey")[1]
        self.assertEqual((found["job"], found["failed"], found["asked_by"]), (None, "", "engineer"))
        self.assertTrue(found["finished_at"])

    def test_work_is_stopped_by_who_asked_for_it_and_by_nobody_else(self) -> None:
        """One that waits ends at once; one that runs where it next says what it does. Nothing of it is kept."""
        at = self.api.inquiry()
        said = self.api.upload("list.csv", b"part;quantity\nA;1\n", f"{at}/files")[1]
        status, refused = Api("buyer").post(f"/jobs/{said['job']['id']}/stop", {})
        self.assertEqual((status, "only they can stop it" in refused["message"]), (403, True))
        stopped = self.api.post(f"/jobs/{said['job']['id']}/stop", {})[1]
        self.assertEqual((stopped["job"], stopped["failed"]), (None, "Stopped by engineer; nothing was changed."))
        self.assertIn("Stopped by engineer", self.api.get(at)[1]["files"][0]["failed"])
        self.assertEqual(self.api.post(f"/jobs/{said['job']['id']}/stop", {})[0], 422)
        self.assertEqual(self.api.get("/jobs/987654")[0], 404)
        self.worker("--batch").wait(60)
        self.assertEqual(InquiryFile.objects.get().role, "unread")

        job = Job.objects.create(kind="check", title="the check", asked_by="engineer")
        done: list[str] = []

        def work(tell: Tell) -> None:
            tell("beginning", 1, 2)
            done.append(self.api.get(f"/jobs/{job.pk}")[1]["job"]["doing"])
            self.api.post(f"/jobs/{job.pk}/stop", {})
            tell("going on", 2, 2)
            done.append("kept")

        carry_out(job.pk, work)
        self.assertEqual(done, ["beginning"])
        self.assertIn("Stopped by engineer", self.api.get(f"/jobs/{job.pk}")[1]["failed"])

    def test_of_one_kind_about_one_row_there_is_one_at_a_time(self) -> None:
        with transaction.atomic():
            first = ask_for("tally", 1, "the tally of A", "engineer")
            second = ask_for("tally", 1, "the tally of A", "engineer")
        self.assertIn("anew", job_state(Job.objects.get(pk=first.pk)).failed)

        def work(tell: Tell) -> None:
            tell("summing")
            with self.assertRaisesRegex(TallyError, "the tally of A: summing; it is in hand already"), transaction.atomic():
                ask_for("tally", 1, "the tally of A", "buyer")

        carry_out(first.pk, work)
        self.assertIsNone(Job.objects.get(pk=first.pk).begun_at, "one that was let go is not carried out")
        carry_out(second.pk, work)
        self.assertEqual(job_state(Job.objects.get(pk=second.pk)), JobState(second.pk, "the tally of A", "engineer"))
        with self.assertRaises(ZeroDivisionError):
            carry_out(Job.objects.create(kind="tally", title="x", asked_by="y").pk, lambda tell: tell(str(1 // 0)))
        self.assertIn("could not be finished (ZeroDivisionError)", last_job("tally").failed)  # type: ignore[union-attr]
