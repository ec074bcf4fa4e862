"""``schedule``: have the worker do every night what is done every night; run before it starts."""

from typing import Any

from django.core.management.base import BaseCommand
from findings.actions.check_everything import nightly as check
from handover.actions.compare_every_night import nightly as compare
from inquiries.actions.read_parts import nightly as read
from jobs.every_night import queue_for_tonight


class Command(BaseCommand):
    help = "Queue the nightly check, comparison and reading of parts, unless they wait already."

    def handle(self, *args: Any, **options: Any) -> None:
        queue_for_tonight(check)
        queue_for_tonight(compare)
        queue_for_tonight(read)
