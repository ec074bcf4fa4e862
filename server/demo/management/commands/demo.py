"""``demo``: fill an empty database with the demo."""

from django.core.management.base import BaseCommand
from psycopg import Error

from demo.handover import load_handover
from demo.load_demo import load_demo


class Command(BaseCommand):
    help = "Load the demo; a second run changes nothing."

    def handle(self, *args, **options) -> None:
        if not load_demo(orders=True):
            self.stdout.write("The demo is there already; its data are kept.")
            return
        try:
            load_handover()
        except Error as error:
            # On a server of somebody else the stand-in may not have a database of its own.
            self.stdout.write(f"The records of production are not part of this demo: {str(error).splitlines()[0]}")
        self.stdout.write("Loaded the demo.")
