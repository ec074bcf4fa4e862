"""``read FILE...``: what a list, a layout, a placement file or a STEP assembly says, without saving anything."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from formats.neutral import read_files
from tally_core.basics.errors import TallyError

from tally_site.management.commands._answer import Outside

MOST_BYTES = 200_000_000


class Command(Outside):
    help = "What files from outside say: rows, places, parts and problems. Saves nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("files", nargs="+")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        said = read_files([(Path(f).name, content_of(f)) for f in given["files"]])
        self.stdout.write(json.dumps(said, ensure_ascii=False) if given["json"] else _words(said))


def content_of(file: str) -> bytes:
    """The bytes of a file from outside. Raises TallyError for one that is too large, OSError where it cannot be read."""
    if Path(file).stat().st_size > MOST_BYTES:
        raise TallyError(f"{file} is larger than a list can be.")
    return Path(file).read_bytes()


def _words(said: dict[str, Any]) -> str:
    lines = [
        f"{r['row']:>6}  {'  ' * (r.get('level') or 0)}{r.get('part') or r.get('maker_number') or '–':24} {r.get('quantity', ''):>10} {r.get('unit', '')}"
        for r in said.get("rows", ())
    ]
    lines += [
        f"{p['designator']:12} {p['x_mm']:>12} {p['y_mm']:>12} {p['rotation']:>6} {p.get('side', ''):6} {p['package']}"
        for p in said.get("places", ())
    ]
    lines += [
        f"{p['name'] or '–':32} {p['count']:>6}  {' × '.join(p.get('size_mm', ())):32} {p.get('volume_mm3', ''):>18} mm³"
        for p in said.get("parts", ())
    ]
    lines += [f"row {p['row']}: {p['message']}" if p["row"] else p["message"] for p in said["problems"]]
    return "\n".join(lines)
