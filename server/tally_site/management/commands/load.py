"""``load FILE``: bring in a bundle."""

import sys
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from inquiries.actions.read_parts import read_parts
from tally_core.stated.bundle import parse_bundle
from verbs.sheets.load_bundle import load_bundle

from tally_site.management.commands._answer import Outside


class Command(Outside):
    help = "Load a bundle, all of it or nothing; - reads standard input."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file")

    def answer(self, **given: Any) -> None:
        name = given["file"]
        content = sys.stdin.buffer.read() if name == "-" else Path(name).read_bytes()
        loading = load_bundle(parse_bundle(content), f"bundle {Path(name).name}")
        # The first list that is paired is not to wait for that.
        read_parts.enqueue()
        self.stdout.write(str(loading))
