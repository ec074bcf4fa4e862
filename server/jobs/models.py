"""Long work, on its way through the worker."""

from django.db import models
from django.db.models import Q

__all__ = ["Job"]


class Job(models.Model):
    """One piece of long work: asked for, taken by a worker, then done, failed or stopped.

    A worker that carries it out holds a lock of its own (``jobs.locks``), so that one that was killed is known to be gone.
    """

    # What it is about: a word, and the key of a row where it is about one. Of each there is one at a time.
    kind = models.CharField(max_length=20)
    about = models.BigIntegerField(default=0)
    # What is done, for people: "reading list.csv".
    title = models.TextField()
    asked_by = models.CharField(max_length=150)
    asked_at = models.DateTimeField(auto_now_add=True)
    begun_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)
    # What it is at just now, and how far it is.
    doing = models.TextField(blank=True, default="")
    step = models.IntegerField(default=0)
    steps = models.IntegerField(default=0)
    # Why it was not finished; who asked it to stop.
    failed = models.TextField(blank=True, default="")
    stopped_by = models.CharField(max_length=150, blank=True, default="")

    class Meta:
        indexes = [models.Index(fields=["kind", "about", "-id"], name="job_last")]
        constraints = [models.UniqueConstraint(fields=["kind", "about"], condition=Q(ended_at=None), name="job_once")]

    def __str__(self) -> str:
        return self.title
