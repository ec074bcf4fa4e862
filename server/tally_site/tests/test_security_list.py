"""What ``docs/security.md`` says: no row of its list is empty, and what it names is there."""

import re
from collections import Counter
from pathlib import Path

from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[3]
_TEXT = (ROOT / "docs" / "security.md").read_text()


class SecurityList(SimpleTestCase):
    def rows(self) -> list[list[str]]:
        return [
            [cell.strip() for cell in line.strip("| ").split(" | ")] for line in _TEXT.splitlines() if re.match(r"\| \d+\.\d+\.\d+ ", line)
        ]

    def test_no_row_is_empty_and_none_stands_twice(self) -> None:
        rows = self.rows()
        self.assertGreater(len(rows), 200)
        for row in rows:
            self.assertEqual((len(row), all(row)), (5, True), row)
        self.assertEqual([n for n, times in Counter(row[0] for row in rows).items() if times > 1], [])

    def test_what_it_sums_up_is_so(self) -> None:
        held = Counter(row[4] for row in self.rows())
        self.assertEqual(set(held), {"met", "operator", "partly", "not met", "n/a"})
        summed = [int(n) for n in re.findall(r"\d+", _TEXT[_TEXT.index("\nOf ") :].split(".")[0])]
        self.assertEqual(summed, [held.total(), held["met"], held["operator"], held["partly"], held["not met"], held["n/a"]])

    def test_every_file_it_names_exists(self) -> None:
        named = set(re.findall(r"`([a-z_/0-9]+\.(?:py|txt|json|md))`", _TEXT)) | set(re.findall(r"`([a-z_]+/tests)`", _TEXT))
        self.assertGreater(len(named), 50)
        folders = [
            "",
            "server",
            "server/tally_site/tests",
            "server/accounts/tests",
            "server/formats",
            "server/formats/tests",
            "server/events/tests",
        ]
        folders += ["server/outside", "server/shop/tests", "core", "server/handover/tests"]
        lost = [name for name in sorted(named) if not any((ROOT / folder / name).exists() for folder in folders)]
        self.assertEqual(lost, [])
