"""The contract from outside: load, cost, needs and export, as commands, through the database."""

import io
import json
import os
import subprocess
import sys
import tempfile
from datetime import date
from decimal import Decimal
from fractions import Fraction as F
from pathlib import Path
from unittest.mock import patch
from urllib.parse import quote

from definition.models.parts import Part
from definition.models.sheets import Line
from django.core.management import call_command
from django.db import connection, transaction
from django.test import TestCase, TransactionTestCase
from testing import load, rod_and_tube

sys.path.insert(0, str(Path(__file__).resolve().parents[3] / "core"))
from tests.exact import ELEMENTS, Exact
from tests.generate import DAY, bundle


def run(*words: str) -> tuple[int, str, str]:
    """A command's exit code and what it said on each stream."""
    out, wrong, code = io.StringIO(), io.StringIO(), 0
    with patch.object(sys, "stderr", wrong):
        try:
            call_command(*words, stdout=out)
        except SystemExit as stop:
            code = int(stop.code or 0)
    return code, out.getvalue(), wrong.getvalue()


def load_file(document: dict) -> tuple[int, str, str]:
    with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
        json.dump(document, file)
        file.flush()
        return run("load", file.name)


class Contract(TestCase):
    def test_worked_example(self) -> None:
        """The worked example of docs/arithmetic.md: 9.10."""
        document = rod_and_tube("released")
        document["build_sheets"][0]["lines"] = document["build_sheets"][0]["lines"][:1]
        document["build_sheets"][0]["operations"] = document["build_sheets"][0]["operations"][:1]
        self.assertEqual(load_file(document)[0], 0)
        code, said, _ = run("cost", "RT-1", "--json")
        self.assertEqual((code, json.loads(said)["unit_cost"]), (0, "9.100000"))
        _, said, _ = run("needs", "RT-1", "--qty", "250", "--json")
        wanted = {"part": "ROD", "level": 1, "unit": "m", "gross": "525.000000", "lot": "525.000000"}
        self.assertEqual(json.loads(said)["needs"], [wanted])
        # The same as words, without the elements that are nothing.
        words = [line.split() for line in run("cost", "RT-1")[1].splitlines()]
        elements = [["material", "6.000000"], ["scrap", "0.300000"], ["setup", "0.800000"], ["labor", "2.000000"]]
        self.assertEqual(words, [["RT-1", "9.100000", "EUR"], *elements])
        words = [line.split() for line in run("needs", "RT-1", "--qty", "250")[1].splitlines()]
        self.assertEqual(words, [["1", "ROD", "525.000000", "m"]])

    def test_buildable_counts_what_a_bundle_counted(self) -> None:
        """By hand: 21 m of rod make nine tubes more than the one on the shelf, or so much of RT-1; nuts for five stop it."""
        document = rod_and_tube("released")
        for number, on_hand in {"ROD": "21", "NUT": "20", "T-1": "1"}.items():
            next(p for p in document["parts"] if p["number"] == number)["on_hand"] = on_hand
        self.assertEqual(load_file(document)[0], 0)
        code, said, _ = run("buildable", "RT-1", "--json")
        # Five take 10.5 m of rod and four tubes; the sixth wants four nuts more.
        wanted = {"part": "RT-1", "quantity": "5.000000", "limited_by": [{"part": "NUT", "short": "4.000000"}]}
        self.assertEqual((code, json.loads(said)), (0, wanted))
        self.assertEqual(run("buildable", "RT-1")[1].split(), ["RT-1:", "5.000000", "NUT", "short", "4.000000"])
        self.assertEqual(run("buildable", "ROD")[0], 1)

    def test_generated_bundles_agree_with_exact_fractions(self) -> None:
        """200 bundles through load and cost, against tests/exact.py in exact fractions, to six decimals."""
        places = Decimal("0.000001")
        for seed in range(1000, 1200):
            document, top, options = bundle(seed)
            chosen = [word for option in options for word in ("--option", option)]
            with transaction.atomic():
                code, _, wrong = load_file(document)
                self.assertEqual((code, wrong), (0, ""), seed)
                for quantity in (None, "24"):
                    asked = ["--qty", quantity] if quantity else []
                    code, said, wrong = run("cost", top, "--as-of", DAY, "--json", *chosen, *asked)
                    self.assertEqual((code, wrong), (0, ""), seed)
                    exact = Exact(document, top, DAY, options, F(quantity) if quantity else None)
                    this, lower = exact.vector(top)
                    answer = json.loads(said)
                    for name in ELEMENTS:
                        wanted = this[name] + lower[name]
                        self.assertLessEqual(abs(F(answer["elements"][name]) - wanted), F(places) / 2 + abs(wanted) / 10**12, (seed, name))
                    self.assertLessEqual(abs(F(answer["unit_cost"]) - exact.total(top)), F(places) / 2 + exact.total(top) / 10**12, seed)
                transaction.set_rollback(True)

    def test_a_round_trip_changes_nothing(self) -> None:
        for seed in (3, 4, 5):
            document, _, _ = bundle(seed)
            with transaction.atomic():
                load_file(document)
                _, first, _ = run("export_bundle")
                rows = set(Line.objects.values_list("id", flat=True))
                code, said, _ = load_file(json.loads(first))
                self.assertEqual((code, said.strip()), (0, "made nothing; changed nothing"))
                self.assertEqual(set(Line.objects.values_list("id", flat=True)), rows)
                self.assertEqual(run("export_bundle")[1], first)
                transaction.set_rollback(True)

    def test_refusals_are_one_clear_line_and_leave_nothing(self) -> None:
        loop = rod_and_tube("released")
        loop["build_sheets"][1]["lines"].append({"item": 20, "part": "RT-1", "quantity": "1"})
        code, _, wrong = load_file(loop)
        self.assertEqual((code, wrong), (1, "T-1 contains itself: T-1 → RT-1 → T-1\n"))
        self.assertFalse(Part.objects.exists())
        bad = rod_and_tube()
        bad["build_sheets"][0]["lines"][0]["unit"] = "kg"
        code, _, wrong = load_file(bad)
        self.assertEqual(code, 1)
        self.assertIn("build_sheets[0].lines[0].unit: kg is a mass, and ROD is stocked in m, a length", wrong)
        load(rod_and_tube("draft"))
        for words, told in (
            (("cost", "X"), "part X is not known"),
            (("cost", "RT-1"), "no released build sheet in force"),
            (("cost", "RT-1", "--qty", "0"), "--qty takes a number above 0"),
            (("cost", "RT-1", "--as-of", "soon"), "--as-of takes a day"),
            (("needs", "RT-1", "--drafts"), "needs hold for a quantity"),
            (("cost", "RT-1", "--drafts", "--option", "GPS"), "option GPS is not known"),
            (("load", "/no/such/file"), "No such file"),
        ):
            code, _, wrong = run(*words)
            self.assertEqual((code, wrong.count("\n")), (1, 1), words)
            self.assertIn(told, wrong)
        self.assertEqual(run("cost", "RT-1", "--drafts", "--json")[0], 0)

    def test_the_number_of_queries_does_not_grow(self) -> None:
        """A small product and one of six hundred lines on forty sheets take as many queries."""
        import psycopg
        from loading.reads import load_question, part_named
        from tally_core.cost.answers import Basis

        def queries(number: str) -> int:
            plain, calls = psycopg.Cursor.execute, []

            def counting(cursor, query, *args, **options):
                calls.append(query)
                return plain(cursor, query, *args, **options)

            part = part_named(number)
            with patch.object(psycopg.Cursor, "execute", counting):
                load_question(part, Basis(date(2026, 11, 24)))
            return len(calls)

        load(rod_and_tube("released"))
        large = rod_and_tube("released")
        large["parts"] += [{"number": f"M{i}", "kind": "made", "unit": "ea"} for i in range(40)]
        large["build_sheets"] += [
            {
                "part": f"M{i}",
                "status": "released",
                "lines": [{"part": "NUT", "quantity": "1"}] * 15 + ([{"part": f"M{i + 1}", "quantity": "1"}] if i < 39 else []),
            }
            for i in range(40)
        ]
        load(large)
        connection.ensure_connection()
        self.assertEqual(queries("M0"), queries("T-1"))


class AsCalled(TransactionTestCase):
    """The commands as ``./tally`` calls them: in a process of their own, with the few apps that they need."""

    def test_every_command_with_lean_settings_answers(self) -> None:
        load(rod_and_tube("released"))
        held = connection.settings_dict
        address = f"postgres://{held['USER']}:{quote(held['PASSWORD'])}@{held['HOST']}:{held['PORT']}/{held['NAME']}"
        program = Path(__file__).resolve().parents[2] / "manage.py"
        for words, answered in (
            (("cost", "RT-1"), ("unit_cost", "11.666667")),
            (("needs", "RT-1", "--qty", "3"), ("part", "RT-1")),
            (("buildable", "RT-1"), ("quantity", "0.000000")),
        ):
            done = subprocess.run(
                [sys.executable, str(program), *words, "--json"],
                capture_output=True,
                text=True,
                env=os.environ | {"DJANGO_SETTINGS_MODULE": "tally_site.lean", "DATABASE_URL": address},
                timeout=60,
            )
            self.assertEqual((done.returncode, done.stderr), (0, ""), words)
            self.assertEqual(json.loads(done.stdout)[answered[0]], answered[1], words)

    def test_commands_that_read_files_only(self) -> None:
        """As ``./tally`` calls them, on files; no database is asked."""
        folder = Path(tempfile.mkdtemp())
        program = Path(__file__).resolve().parents[2] / "manage.py"

        def called(*words: str) -> subprocess.CompletedProcess:
            return subprocess.run(
                [sys.executable, str(program), *words],
                capture_output=True,
                text=True,
                cwd=folder,
                env=os.environ | {"DJANGO_SETTINGS_MODULE": "tally_site.lean", "DATABASE_URL": "postgres://n@127.0.0.1:1/n"},
                timeout=60,
            )

        ours, theirs = rod_and_tube("released"), rod_and_tube("released")
        theirs["build_sheets"][0]["lines"][0]["quantity"] = "7"
        for name, document in (("ours.json", ours), ("theirs.json", theirs), ("broken.json", {"format": "other"})):
            (folder / name).write_text(json.dumps(document))
        done = called("compare", "ours.json", "ours.json", "theirs.json", "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        said = json.loads(done.stdout)
        (row,) = said["lines"]
        (field,) = row["fields"]
        before = ours["build_sheets"][0]["lines"][0]["quantity"]
        self.assertEqual((row["parent"], row["verdict"], said["parts"]), ("RT-1", "they moved", []))
        self.assertEqual(
            field, {"field": "quantity", "agreed": before, "ours": before, "theirs": "7", "verdict": "they moved", "proposal": "theirs"}
        )
        self.assertEqual(called("compare", "-", "ours.json", "ours.json").stdout.strip(), "All agree.")
        mill = {
            "format": "round-tally-cuts",
            "version": 1,
            "kerf_mm": "3",
            "bars": [{"stock": "bar", "length_mm": "6000", "cost": "31.5", "available": None}],
            "pieces": [{"name": "rail", "length_mm": "1998", "count": 6}, {"name": "post", "length_mm": "2997", "count": 2}],
        }
        (folder / "cuts.json").write_text(json.dumps(mill))
        done = called("cut", "cuts.json", "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        said = json.loads(done.stdout)
        # Three rails and two kerfs fill a bar; two posts and a kerf another.
        self.assertEqual((said["count"], said["bound"], said["cost"], said["used"][0]["count"]), (3, "3", "94.500000", 3))
        (folder / "long.json").write_text(json.dumps(mill | {"bars": [{"stock": "bar", "length_mm": "2000"}]}))
        for words in (
            ("compare", "-", "ours.json", "broken.json"),
            ("compare", "-", "ours.json", "nowhere.json"),
            ("cut", "ours.json"),
            ("cut", "long.json"),
            ("cut", "nowhere.json"),
        ):
            done = called(*words)
            self.assertEqual((done.returncode, done.stdout, done.stderr.count("\n")), (1, "", 1), words)
