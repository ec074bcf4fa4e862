"""Django's command line for this program: ``round-tally migrate``, ``round-tally work`` and the rest."""

import os
import sys

from django.core.management import execute_from_command_line

__all__ = ["main"]


def main() -> None:
    """Carry out the words of the command line."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tally_site.settings")
    execute_from_command_line(sys.argv)
