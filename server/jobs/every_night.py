"""Work that is done every night."""

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils.timezone import localtime

__all__ = ["queue_for_tonight"]

_HOUR = 2


def queue_for_tonight(nightly: Any) -> None:
    """Have the worker run a task at two in the morning, unless it waits for that already; the task queues itself anew."""
    from django_tasks_db.models import DBTaskResult

    with transaction.atomic():
        waiting = DBTaskResult.objects.select_for_update().filter(task_path=nightly.module_path, status="READY")
        if waiting.exists():
            return
        at = localtime().replace(hour=_HOUR, minute=0, second=0, microsecond=0)
        if at <= localtime():
            at += timedelta(days=1)
        nightly.using(run_after=at).enqueue()
