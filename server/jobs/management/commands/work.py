"""The worker: runs what was asked for and takes long, one thing after another."""

from argparse import ArgumentParser
from typing import Any

from django_tasks_db.management.commands.db_worker import Command as Worker

from jobs.presence import show_presence


class Command(Worker):
    help = "Run the worker until it is told to end; it ends when it loses the database, and is started anew by ./tally."

    def add_arguments(self, parser: ArgumentParser) -> None:
        super().add_arguments(parser)
        parser.set_defaults(interval=0.3, startup_delay=False, queue_name="*")

    def handle(self, **options: Any) -> None:
        show_presence()
        super().handle(**options)
