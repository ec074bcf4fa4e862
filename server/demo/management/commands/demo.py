"""``demo``: fill an empty database with the demo."""

from django.core.management.base import BaseCommand

from demo.load_demo import load_demo


class Command(BaseCommand):
    help = "Load the demo; a second run changes nothing."

    def handle(self, *args, **options) -> None:
        self.stdout.write("Loaded the demo." if load_demo() else "The demo is there already; its data are kept.")
