"""Long work over HTTP: how far it is, and asking it to stop."""

from typing import Any

from django.http import HttpRequest
from jobs.models import Job
from jobs.work import JobState, job_state, stop_job
from ninja import Router, Schema
from tally_core.basics.errors import MissingError

router = Router(tags=["jobs"])


class JobOut(Schema):
    """Long work that waits or runs: what it is at, and how far it is. Who asked for it may stop it."""

    id: int
    title: str
    asked_by: str
    waits: bool
    doing: str
    step: int
    steps: int


class JobStands(Schema):
    """``job`` while it waits or runs; ``failed`` says why it was not finished."""

    job: JobOut | None
    failed: str


def job_out(state: JobState) -> JobOut | None:
    """What is shown of work that waits or runs."""
    shown = state.shown()
    return None if shown is None else JobOut(**shown)


@router.get("/{job_id}", response=JobStands)
def read_job(request: HttpRequest, job_id: int) -> Any:
    """How a job stands."""
    job = Job.objects.filter(pk=job_id).first()
    if job is None:
        raise MissingError("This work is no longer there.")
    state = job_state(job)
    return JobStands(job=job_out(state), failed=state.failed)


@router.post("/{job_id}/stop", response=JobStands)
def stop(request: HttpRequest, job_id: int) -> Any:
    """Ask it to stop where it next says what it does."""
    stop_job(request.user, job_id)
    return read_job(request, job_id)
