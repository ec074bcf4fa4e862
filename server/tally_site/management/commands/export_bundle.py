"""``export-bundle [PART]``: write what ``load`` reads."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.utils.timezone import localdate
from loading.reads import part_named, reached
from readings.export_bundle import export_bundle

from tally_site.management.commands._answer import Outside


class Command(Outside):
    help = "Write everything, or one part and all it takes, as a bundle."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("part", nargs="?")
        parser.add_argument("--output", "-o", help="a file; standard output when left out")

    def answer(self, **given: Any) -> None:
        ids = reached([part_named(given["part"]).id], localdate(), True).tolist() if given["part"] else None
        text = json.dumps(export_bundle(ids), ensure_ascii=False, indent=1)
        if given["output"]:
            Path(given["output"]).write_text(text + "\n")
        else:
            self.stdout.write(text)
