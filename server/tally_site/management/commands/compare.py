"""``compare AGREED OURS THEIRS``: two bundles and the state last agreed, side by side (rules H1 to H4)."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.utils.timezone import localdate
from tally_core.basics.errors import TallyError
from tally_core.handover.comparing import Of, compare_definitions, comparison_as_json
from tally_core.handover.reading import read_side

from tally_site.management.commands._answer import Outside, told_together

MOST_BYTES = 500_000_000


class Command(Outside):
    help = "Where ours, theirs and the state last agreed (or -, for nothing) do not agree. Saves nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("agreed")
        parser.add_argument("ours")
        parser.add_argument("theirs")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        agreed = None if given["agreed"] == "-" else _side(given["agreed"])
        said = comparison_as_json(compare_definitions(agreed, _side(given["ours"]), _side(given["theirs"]), localdate()))
        self.stdout.write(json.dumps(said, ensure_ascii=False) if given["json"] else _words(said))


def _side(name: str) -> Of:
    """Raises TallyError with all that is wrong in one line, OSError where it cannot be read."""
    file = Path(name)
    if file.stat().st_size > MOST_BYTES:
        raise TallyError(f"{name} is larger than a bundle can be.")
    with told_together(f"{name}: "):
        return read_side(file.read_bytes())


def _words(said: dict[str, Any]) -> str:
    lines = []
    for kind, rows in said.items():
        for row in rows:
            names = " ".join(str(row[n]) for n in ("parent", "part", "item", "sequence", "name") if row.get(n) is not None)
            lines.append(f"{kind.removesuffix('s')} {names}: {row['verdict']}")
            lines += [f"    {f['field']}: {f['agreed']} | {f['ours']} | {f['theirs']}  {f['verdict']}" for f in row["fields"]]
    return "\n".join(lines) or "All agree."
