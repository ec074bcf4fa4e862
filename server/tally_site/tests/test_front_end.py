"""The front end: the tests of its model, its floors, and the size of its files."""

import json
import os
import re
import shutil
import subprocess
import unittest
from pathlib import Path

from tally_core.basics.elements import ELEMENT

WEB = Path(__file__).resolve().parents[3] / "web"
#: From below; a folder imports only from itself and from what stands before it. All others are screens, which stand side by side.
FLOORS = ("lib", "model", "kit", "pieces")
MOST_LINES = 300


def sources() -> list[Path]:
    found = [p for p in (WEB / "src").rglob("*.ts*") if p.name not in ("schema.d.ts", "declared.ts")]
    assert len(found) > 100
    return sorted(found)


class FrontEnd(unittest.TestCase):
    def test_the_model(self) -> None:
        """Every test of ``src/model``, each reported by its name."""
        local = Path(os.environ.get("VIRTUAL_ENV", WEB.parent / ".venv")) / "bin"
        path = os.pathsep.join([os.environ["PATH"], str(local)])
        node = shutil.which("node", path=path)
        assert node is not None
        done = subprocess.run(
            [node, str(WEB / "node_modules" / "vitest" / "vitest.mjs"), "run", "--reporter=json"],
            cwd=WEB,
            env=os.environ | {"PATH": path},
            capture_output=True,
            text=True,
            timeout=300,
            check=False,
        )
        self.assertIn("{", done.stdout, done.stderr)
        said = json.loads(done.stdout[done.stdout.index("{") :])
        self.assertGreater(said["numTotalTests"], 30)
        self.assertEqual(said["numPendingTests"], 0, "a test that is left out tests nothing")
        for file in said["testResults"]:
            self.assertEqual((file["status"], file["message"]), ("passed", ""), file["name"])
            for test in file["assertionResults"]:
                with self.subTest(test["fullName"]):
                    self.assertEqual(test["status"], "passed", "\n".join(test["failureMessages"]))

    def test_a_screen_imports_no_other_and_nothing_imports_what_stands_over_it(self) -> None:
        root = WEB / "src"
        wrong = []
        for file in sources():
            here = file.relative_to(root).parts
            if len(here) == 1:
                continue
            for named in re.findall(r"""(?:from\s+|import\()["'](\.[^"']+)["']""", file.read_text()):
                there = (file.parent / named).resolve().relative_to(root).parts
                floor = FLOORS.index(here[0]) if here[0] in FLOORS else len(FLOORS)
                below = FLOORS[:floor]
                if there[0] != here[0] and there[0] not in below:
                    wrong.append(f"{'/'.join(here)} imports {'/'.join(there)}")
        self.assertEqual(wrong, [])

    def test_the_look_has_the_colour_of_every_element_by_day_and_by_night(self) -> None:
        look = (WEB / "src" / "app.css").read_text()
        for name, element in ELEMENT.items():
            self.assertEqual(look.count(f"--e-{element.colour}:"), 2, name)

    def test_no_file_is_longer_than_one_can_read(self) -> None:
        long = {str(p.relative_to(WEB)): n for p in sources() if (n := p.read_text().count("\n")) > MOST_LINES}
        self.assertEqual(long, {})
