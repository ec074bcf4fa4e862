"""``pair FILE``: which of our parts each line of a sender's list may be."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from formats.neutral import read_files
from inquiries.ours import bring_up, shelf_for
from inquiries.pairing import remembered_of
from partners.models import Partner
from readings.pairing import asked_of, proposals_for
from tally_core.basics.errors import MissingError, TallyError

from tally_site.management.commands._answer import Outside
from tally_site.management.commands.read import content_of


class Command(Outside):
    help = "Which of our parts each line of a list may be, best first. Saves nothing but what was read of our parts."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file")
        parser.add_argument("--sender", help="the code of the partner who sent the list")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        sender = Partner.objects.filter(code__iexact=given["sender"]).first() if given["sender"] else None
        if given["sender"] and sender is None:
            raise MissingError(f"partner {given['sender'][:40]} is not known")
        rows = read_files([(Path(given["file"]).name, content_of(given["file"]))]).get("rows")
        if not rows:
            raise TallyError(f"{given['file']} holds no list with part numbers")
        bring_up()
        lines = proposals_for(shelf_for(map(asked_of, rows), remembered_of(sender)), rows)
        self.stdout.write(json.dumps({"lines": lines}, ensure_ascii=False) if given["json"] else _words(rows, lines))


def _words(rows: list[dict[str, Any]], lines: list[dict[str, Any]]) -> str:
    said = []
    for row, line in zip(rows, lines, strict=True):
        theirs = row.get("part") or row.get("maker_number") or row.get("description", "")
        said.append(f"{line['row']:>6}  {theirs}")
        for p in line["proposals"]:
            verdicts = ", ".join(f"{name} {verdict}" for name, verdict in p["verdicts"].items())
            said.append(f"          {p['part']:20} {p['road']}{', certain' if p['certain'] else ''}  {verdicts}".rstrip())
        if not line["proposals"]:
            said.append("          nothing of ours is like it")
    return "\n".join(said)
