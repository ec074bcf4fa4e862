"""``cut FILE``: bars or boards for all pieces, the fewest or cheapest, with a bound (rules K2 and K3)."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from tally_core.cuts.cuts_file import cut, cutting_as_json, read_cuts

from tally_site.management.commands._answer import Outside, json_file, told_together


class Command(Outside):
    help = "How to cut all pieces out of the least stock, with a bound. Saves nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file")
        parser.add_argument("--seconds", type=float, default=30.0, help="after them the best found stands")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        with told_together():
            asked = read_cuts(json_file(Path(given["file"])))
        said = cutting_as_json(asked, cut(asked, given["seconds"]))
        self.stdout.write(json.dumps(said, ensure_ascii=False) if given["json"] else _words(said))


def _words(said: dict[str, Any]) -> str:
    proven = "proven the least" if said["proven"] else f"the bound is {said['bound']}"
    lines = [
        f"{said['count']} of stock" + (f", cost {said['cost']}" if said["cost"] else "") + f", {proven}; waste {said['waste_percent']} %"
    ]
    for used in said["used"]:
        lines.append(f"{used['count']} × {used['stock']}")
        for pattern in used["patterns"]:
            pieces = pattern.get("pieces") or pattern["panels"]
            lines.append(f"  {pattern['count']:>5} × " + ", ".join(p["name"] for p in pieces))
    return "\n".join(lines)
