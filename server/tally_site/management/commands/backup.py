"""``backup FILE``: the database and its files in one archive."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from tally_site.archive import back_up
from tally_site.management.commands._answer import Outside


class Command(Outside):
    help = "Write everything that is kept here into one archive; people may go on working."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)

    def answer(self, **given: Any) -> None:
        target = given["file"]
        made = back_up(target)
        size = target.stat().st_size / 1e6
        self.stdout.write(
            f"{made['parts']:,} parts, {made['sheets']:,} sheets, {made['people']:,} people and {len(made['files']):,} files are in {target}, {size:,.1f} MB"
        )
        if made["lost"]:
            self.stderr.write(f"The disk has lost {len(made['lost']):,} files that parts or inquiries name; they are not in it.")
