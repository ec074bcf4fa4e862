"""``schedule``: have the worker do every night what is done every night; run before it starts."""

from typing import Any

from django.core.management.base import BaseCommand

from findings.actions.check_everything import schedule_nightly


class Command(BaseCommand):
    help = "Queue the nightly check, unless it waits already."

    def handle(self, *args: Any, **options: Any) -> None:
        schedule_nightly()
