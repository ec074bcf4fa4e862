"""What the server's tests share: people, a signed-in client, small definitions."""

import io
import json
import zipfile
from collections.abc import Mapping
from typing import Any
from urllib.parse import unquote

import xlsxwriter
from accounts.access import make_groups
from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from definition.models.work_centers import StandardOperation, WorkCenter
from django.contrib.auth.models import Group, User
from django.db import transaction
from django.test import Client
from verbs.sheets.load_bundle import load_bundle

__all__ = ["PASSWORD", "Api", "archive", "load", "person", "rod_and_tube", "rows_of", "sheet_of", "workbook"]

PASSWORD = "a-long-test-password"


def person(role: str) -> User:
    """A user in the group of a role."""
    make_groups()
    user, _ = User.objects.get_or_create(username=role)
    if not user.check_password(PASSWORD):
        # Setting it again would sign out whoever is signed in.
        user.set_password(PASSWORD)
        user.save()
    user.groups.add(Group.objects.get(name=role))
    return user


def rows_of(table: dict[str, Any]) -> list[dict[str, Any]]:
    """The rows of a table that travelled as columns (``readings.wire``), as the screen lays them out."""
    rows = [dict(table["same"]) for _ in range(table["count"])]
    columns = dict(table["each"])
    columns |= {name: [few["words"][at] for at in few["at"]] for name, few in table.get("few", {}).items()}
    columns |= {name: [first + at * grows for at in range(len(rows))] for name, (first, grows) in table.get("steps", {}).items()}
    for name, but in table.get("but", {}).items():
        column = list(columns[but["like"]]) if but["like"] else [but["value"]] * len(rows)
        for at, value in zip(but["rows"], but["values"], strict=True):
            column[at] = value
        columns[name] = column
    for name, column in columns.items():
        for row, value in zip(rows, column, strict=True):
            row[name] = value
    for at, row in enumerate(rows):
        counts = "cost" in row and row["cost"] is not None
        row["elements"] = {n: c[at] for n, c in table["elements"].items()} if counts else None
    return rows


class Api:
    """The API as a signed-in person's browser uses it."""

    def __init__(self, role: str) -> None:
        self.user = person(role)
        self.client = Client()
        self.client.force_login(self.user)

    def get(self, path: str, **query: Any) -> tuple[int, Any]:
        status, body = self._answer(self.client.get(f"/api{path}", query))
        if path.startswith("/sheets/") and path.endswith("/view") and status == 200:
            body |= {name: rows_of(body[name]) for name in ("parts", "lines", "operations")}
        if path == "/sheets/where-used" and status == 200:
            body |= {name: rows_of(body[name]) for name in ("parts", "uses")}
        return status, body

    def send(self, method: str, path: str, body: Any) -> tuple[int, Any]:
        return self._answer(self.client.generic(method, f"/api{path}", json.dumps(body), "application/json"))

    def patch(self, path: str, body: dict[str, Any]) -> tuple[int, Any]:
        """Change a part, a work center or an entry of the library, from the version it has just now."""
        kind, name = path.removeprefix("/").split("/one?")
        key, value = name.split("=")
        model: Any = {"parts": Part, "work-centers": WorkCenter, "library": StandardOperation}[kind]
        version = model.objects.values_list("version", flat=True).get(**{key: unquote(value)})
        return self.send("PATCH", path, {"version": version} | body)

    def post(self, path: str, body: Any) -> tuple[int, Any]:
        return self.send("POST", path, body)

    def refusals(self, acts: Mapping[str, tuple[str, str, Any]]) -> dict[str, str | None]:
        """What each of some actions (method, path, body) is refused with; none where it is done, and nothing of it stays done."""
        found = {}
        for action, (method, path, body) in acts.items():
            with transaction.atomic():
                if isinstance(body, bytes):
                    status, said = self.upload("tried.csv", body, path)
                else:
                    status, said = self.send(method, path, body)
                transaction.set_rollback(True)
            assert status < 500, said
            found[action] = said["message"] if status > 299 else None
        return found

    def inquiry(self, **fields: Any) -> str:
        """The address of a new inquiry; without a customer it is a list of our own."""
        status, answer = self.post("/inquiries", {"title": "List"} | fields)
        assert status == 200, answer
        return f"/inquiries/{answer['id']}"

    def upload(self, name: str, content: bytes, path: str) -> tuple[int, Any]:
        return self.upload_all([(name, content)], path)

    def upload_all(self, files: list[tuple[str, bytes]], path: str) -> tuple[int, Any]:
        from django.core.files.uploadedfile import SimpleUploadedFile

        return self._answer(self.client.post(f"/api{path}", {"file": [SimpleUploadedFile(name, content) for name, content in files]}))

    @staticmethod
    def _answer(response: Any) -> tuple[int, Any]:
        kind = response.headers.get("Content-Type", "")
        content = b"".join(response.streaming_content) if response.streaming else response.content
        return response.status_code, json.loads(content) if "json" in kind else content


def rod_and_tube(status: str = "draft") -> dict:
    """A bundle: RT-1 takes rod and a made tube T-1, at a lathe."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "work_centers": [{"code": "LATHE", "name": "Lathe", "labor_rate": "40"}],
        "parts": [
            {"number": "ROD", "kind": "bought", "unit": "m", "unit_cost": "3.00"},
            {"number": "NUT", "kind": "bought", "unit": "ea", "unit_cost": "0.10"},
            {"number": "T-1", "kind": "made", "unit": "ea", "costing_lot": "10"},
            {"number": "RT-1", "kind": "made", "unit": "ea", "costing_lot": "10", "description": "Rod and tube"},
        ],
        "build_sheets": [
            {
                "part": "RT-1",
                "status": status,
                "operations": [
                    {"sequence": 10, "name": "Turn", "work_center": "LATHE", "setup_minutes": "12", "run_minutes": "3"},
                    {"sequence": 20, "name": "Fit", "work_center": "LATHE", "run_minutes": "1"},
                ],
                "lines": [
                    {"item": 10, "part": "ROD", "quantity": "2", "unit": "m", "scrap_percent": "5", "issue_at": 10},
                    {"item": 20, "part": "T-1", "quantity": "1", "issue_at": 20},
                    {"item": 30, "part": "NUT", "quantity": "4", "issue_at": 20},
                ],
            },
            {"part": "T-1", "status": "released", "lines": [{"item": 10, "part": "ROD", "quantity": "500", "unit": "mm"}]},
        ],
    }


def sheet_of(number: str) -> BuildSheet:
    return BuildSheet.objects.select_related("part").get(part__number=number)


def workbook(rows: list[list]) -> bytes:
    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True, "strings_to_formulas": False})
    sheet = book.add_worksheet("List")
    for i, row in enumerate(rows):
        sheet.write_row(i, 0, row)
    book.close()
    return buffer.getvalue()


def archive(entries: dict[str, bytes]) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in entries.items():
            file.writestr(name, content)
    return buffer.getvalue()


def load(document: dict) -> None:
    load_bundle(document, "test")
