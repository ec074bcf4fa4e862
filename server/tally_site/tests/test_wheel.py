"""The wheel: built, laid out on its own, and asked for what an installation needs, with nothing of the checkout in reach."""

import json
import os
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

from django.db import connection
from django.test import TestCase

ROOT = Path(__file__).resolve().parents[3]
#: What an installation asks of itself, as its first visitor does; it says what it found as JSON.
_ASKED = """
import json, os, sys
import django
django.setup()
from django.conf import settings
from django.core.management import call_command
from django.test import Client
from io import StringIO
from formats.apart import read_tables
import demo.load_demo, tally_core, tally_site
settings.ALLOWED_HOSTS = ["*"]
page = Client().get("/sheets")
text = b"".join(page.streaming_content) if page.streaming else page.content
script = text.decode().split('src="/')[1].split('"')[0]
call_command("makemigrations", "--check", "--dry-run", stdout=StringIO())
print(json.dumps({
    "from": sorted({os.path.dirname(os.path.dirname(m.__file__)) for m in (tally_core, tally_site, demo.load_demo)}),
    "page": page.status_code,
    "script": (settings.WHITENOISE_ROOT / script).stat().st_size > 100_000,
    "ready": Client().get("/ready").status_code,
    "read": [list(row) for row in read_tables("list.csv", b"Part,Quantity\\nA,2\\n")[0].rows],
}))
"""


class Wheel(TestCase):
    def test_it_holds_all_that_an_installation_needs(self) -> None:
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place)
            build = ["-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "--no-index", "--disable-pip-version-check"]
            subprocess.run([sys.executable, *build, "--wheel-dir", place, str(ROOT)], check=True, capture_output=True, timeout=120)
            (made,) = folder.glob("round_tally-*.whl")
            with zipfile.ZipFile(made) as wheel:
                names = wheel.namelist()
                wheel.extractall(folder / "there")
            self.assertEqual([n for n in names if "/tests/" in n or n.startswith(("journeys", "testing", "launcher", "bench"))], [])
            (entry,) = (n for n in names if n.endswith("entry_points.txt"))
            self.assertIn("round-tally = tally_site.command:main", (folder / "there" / entry).read_text())
            kept = {n: v for n, v in os.environ.items() if n in ("PATH", "LANG", "TALLY_SECRET_KEY")}
            here = connection.settings_dict
            url = f"postgres://{here['USER']}:{here['PASSWORD']}@{here['HOST']}:{here['PORT']}/{here['NAME']}"
            done = subprocess.run(
                [sys.executable, "-c", _ASKED],
                cwd=place,
                env=kept
                | {
                    "DATABASE_URL": url,
                    "DJANGO_SETTINGS_MODULE": "tally_site.settings",
                    "PYTHONPATH": str(folder / "there"),
                    "TALLY_FILES": place,
                    "TALLY_STATE": place,
                },
                capture_output=True,
                text=True,
                timeout=120,
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            found = json.loads(done.stdout.splitlines()[-1])
        self.assertEqual(found.pop("from"), [str(folder / "there")])
        self.assertEqual(found, {"page": 200, "script": True, "ready": 200, "read": [["Part", "Quantity"], ["A", "2"]]})
