"""``restore FILE``: what ``backup`` wrote, put into an empty database."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from tally_site.archive import restore
from tally_site.management.commands._answer import Outside


class Command(Outside):
    help = "Put a backup into an empty database, and its files beside it."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)

    def answer(self, **given: Any) -> None:
        back = restore(given["file"])
        self.stdout.write(
            f"{back['parts']:,} parts, {back['sheets']:,} sheets, {back['people']:,} people and {len(back['files']):,} files are back, as they "
            f"were on {back['made_at'][:16].replace('T', ' ')} UTC"
        )
