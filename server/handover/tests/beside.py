"""A rod and a tube beside a system of record: what the tests of handing over share."""

import json
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg
from django.db import connection
from django.test import TestCase, override_settings
from outside.tests.standing import running
from testing import Api, load, rod_and_tube

from standins.records import Server, own_database

__all__ = ["Beside", "a_product", "emptied_server", "records_of"]


def a_product() -> dict[str, Any]:
    """RT-1, released, with every part said in words; its tube T-1 is cut from rod."""
    made = rod_and_tube("released")
    for part in made["parts"]:
        part.setdefault("description", f"{part['number'].lower()} for it")
    return made


def emptied_server() -> Server:
    """The stand-in on a database of its own beside the test's, with nothing in it."""
    s = connection.settings_dict
    url = f"postgres://{s['USER']}:{s['PASSWORD']}@{s['HOST']}:{s['PORT']}/{s['NAME']}"
    server = Server(0, own_database(url))
    server.database.execute("TRUNCATE thing")
    return server


@contextmanager
def records_of(server: Server, folder: str = "") -> Iterator[str]:
    """Have the stand-in answer as the systems of record of this installation: *yard*, *pier*, and *files* in a folder."""
    with running(server) as at:
        file = Path(tempfile.mkdtemp()) / "services.json"
        records = {
            name: {"words": f"The {name}", "kind": "resources", "address": f"{at}{name}/", "key": "ledger-key"} for name in ("yard", "pier")
        }
        records["files"] = {"words": "Files", "kind": "folder", "folder": folder}
        hooks = {"line": {"words": "The line", "address": f"{at}told", "key": "a-key-of-sixteen-or-more", "resolves_to": ["127.0.0.1"]}}
        file.write_text(json.dumps({"format": 1, "records": records, "hooks": hooks}))
        os.chmod(file, 0o600)
        with override_settings(SERVICES=str(file)):
            yield at


class Beside(TestCase):
    """RT-1 is defined here; what is over there, each test says."""

    def setUp(self) -> None:
        load(a_product())
        self.engineer = Api("engineer")
        self.server = emptied_server()
        answering = records_of(self.server, tempfile.mkdtemp())
        self.at = answering.__enter__()
        self.addCleanup(answering.__exit__, None, None, None)

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        drop_records()

    def begun(self, record: str = "yard", top: str = "RT-1", beside: list[str] | None = None) -> dict[str, Any]:
        status, head = self.engineer.post("/handover", {"record": record, "top": top, "beside": beside})
        self.assertEqual(status, 200, head)
        return self.shown(head["id"])

    def shown(self, key: int) -> dict[str, Any]:
        status, shown = self.engineer.get(f"/handover/{key}")
        self.assertEqual(status, 200, shown)
        return shown

    def read(self, key: int) -> dict[str, Any]:
        status, shown = self.engineer.post(f"/handover/{key}/read", {})
        self.assertEqual(status, 200, shown)
        return shown

    def decided(self, shown: dict[str, Any], choices: dict[str, str], field: str | None = None) -> dict[str, Any]:
        """Decide rows by their key, all fields of each or one."""
        decisions = []
        for row in shown["compared"]["rows"]:
            if row["key"] in choices:
                for f in row["fields"] or [{"name": "", "of": row["of"]}]:
                    if field is None or f["name"] == field:
                        decisions.append({"row": row["key"], "field": f["name"], "choice": choices[row["key"]], "of": f["of"]})
        self.assertTrue(decisions, [r["key"] for r in shown["compared"]["rows"]])
        status, answer = self.engineer.post(f"/handover/{shown['head']['id']}/decisions", {"decisions": decisions})
        self.assertEqual(status, 200, answer)
        return answer

    def handed_over(self, shown: dict[str, Any]) -> dict[str, Any]:
        key = shown["head"]["id"]
        status, answer = self.engineer.post(f"/handover/{key}/hand-over", {"digest": shown["compared"]["digest"]})
        self.assertEqual(status, 200, answer)
        return answer

    def agreed(self, record: str = "yard") -> None:
        """Hand all of RT-1 over."""
        done = self.handed_over(self.begun(record))
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""), done["head"])

    def there(self, kind: str, key: str, book: str = "yard") -> dict[str, Any]:
        found = self.server.things(book, [(kind, key)])
        return found[0]["body"] if found else {}

    def verdicts(self, shown: dict[str, Any]) -> list[tuple[str, str, list[str]]]:
        return [
            (r["key"].split("|")[0] + " " + r["words"], r["verdict"], [f["name"] for f in r["fields"]]) for r in shown["compared"]["rows"]
        ]


def drop_records() -> None:
    """Take the stand-in's database away, so that the test's server is as it was."""
    s = connection.settings_dict
    with psycopg.connect(
        host=s["HOST"], port=s["PORT"], user=s["USER"], password=s["PASSWORD"], dbname="postgres", autocommit=True
    ) as there:
        there.execute(f'DROP DATABASE IF EXISTS "{s["NAME"]}_record" WITH (FORCE)')
