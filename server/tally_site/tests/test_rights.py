"""Every address that writes, as nobody and as each role, against one table of rights; nothing else is asked before the right."""

import json
import re
import uuid
from typing import Any
from unittest.mock import patch

from accounts.access import GROUPS
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase, override_settings
from formats import apart
from testing import PASSWORD, Api, load, person, rod_and_tube

from tally_site.api import api

#: Which subject a write needs; None: it saves nothing of others, or only what is one's own.
RIGHTS: dict[str, str | None] = {
    "POST /api/shop/orders": "work orders", "POST /api/shop/orders/{order_id}/release": "work orders", "POST /api/shop/orders/{order_id}/change": "work orders",
    "POST /api/shop/orders/{order_id}/sheet": "work orders", "POST /api/shop/orders/{order_id}/split": "work orders", "POST /api/shop/orders/{order_id}/close": "work orders",
    "POST /api/shop/orders/{order_id}/cancel": "work orders", "POST /api/shop/can-build": None, "POST /api/shop/at-once": "work orders",
    "POST /api/shop/orders/{order_id}/begin": "shop reports", "POST /api/shop/orders/{order_id}/report": "shop reports", "POST /api/shop/orders/{order_id}/issue": "shop reports",
    "POST /api/shop/orders/{order_id}/sent": "shop reports", "POST /api/shop/orders/{order_id}/invoice": "shop reports",
    "POST /api/shop/orders/{order_id}/entries/{entry_id}/reverse": "shop reports",
    "POST /api/shop/orders/{order_id}/parent": "work orders", "POST /api/shop/lots": "parts", "POST /api/shop/day": "shop reports", "POST /api/shop/stock/at": "standards", "PUT /api/shop/orders/{order_id}/backflush": "work orders",
    "POST /api/substitution": "sheets", "POST /api/substitution/file": "sheets", "POST /api/substitution/done/{done_id}/back": "sheets",
    "POST /api/substitution/{table_id}/preview": None, "POST /api/substitution/{table_id}/apply": "sheets", "POST /api/substitution/{table_id}/drop": "sheets",
    "POST /api/people": "people", "POST /api/people/change": "people", "POST /api/people/password": "people", "POST /api/people/sessions": "people", "POST /api/people/own-sessions": None, "POST /api/people/own-sign-on/drop": None,
    "POST /api/people/own-password": None, "POST /api/people/second": "people", "POST /api/people/own-second": None,
    "POST /api/people/own-second/confirm": None, "POST /api/people/own-second/drop": None, "POST /api/tokens": None, "POST /api/tokens/{token_id}/revoke": None, "DELETE /api/session": None, "POST /api/session/columns": None, "POST /api/lists/kept": None, "POST /api/cutting": "cutting", "POST /api/drawings/one": "sheets", "PUT /api/drawings/one": "sheets", "POST /api/drawings/one/balloons": "sheets", "POST /api/drawings/one/views": "sheets", "POST /api/drawings/one/pictures": "sheets",
    "POST /api/drawings/one/numbers/planned": None, "POST /api/drawings/one/numbers": "sheets", "PUT /api/cutting/sizes": "cutting", "POST /api/cutting/leftovers": "cutting",
    "POST /api/cutting/leftovers/{leftover_id}/gone": "cutting", "POST /api/cutting/{plan_id}/again": "cutting",
    "POST /api/cutting/{plan_id}/cut": "cutting", "POST /api/cutting/{plan_id}/loss": "sheets", "POST /api/cutting/{plan_id}/drop": "cutting", "POST /api/lists/kept/{list_id}/drop": None, "POST /api/session/columns/drop": None,
    "POST /api/parts": "parts", "PATCH /api/parts/one": "parts", "POST /api/parts/classes": "parts",
    "PATCH /api/partners/ourselves": "partners", "POST /api/parts/numbers-by-class": None, "POST /api/parts/own-values": None, "POST /api/parts/renumber": "parts", "POST /api/parts/rows/pasted": None,
    "POST /api/parts/rows/file": "parts", "POST /api/parts/rows/planned": None, "POST /api/parts/drop": "parts",
    "POST /api/parts/rows": "parts", "POST /api/parts/one/files": "parts", "POST /api/parts/one/model": "parts", "POST /api/parts/files/named": None,
    "POST /api/parts/files/{file_id}/drop": "parts", "PUT /api/parts/one/makers": "parts", "POST /api/parts/one/stock": "stock",
    "POST /api/parts/open-orders": "open orders", "POST /api/parts/open-orders/file": "open orders",
    "POST /api/partners": "partners", "PATCH /api/partners/one": "partners", "POST /api/partners/one/join": "partners",
    "POST /api/partners/one/drop": "partners", "POST /api/work-centers": "work centers", "POST /api/work-centers/closed-days": "work centers",
    "POST /api/work-centers/load": None, "PATCH /api/work-centers/one": "work centers", "POST /api/library": "sheets",
    "PATCH /api/library/one": "sheets", "POST /api/library/one/drop": "sheets", "POST /api/library/one/refresh": "sheets",
    "POST /api/finished-orders/file": "finished orders", "POST /api/finished-orders": "finished orders",
    "POST /api/finished-orders/{key}/reverse": "finished orders",
    "POST /api/sheets": "sheets", "POST /api/sheets/options": "sheets", "POST /api/sheets/matrix": None,
    "POST /api/sheets/replacement": "sheets", "POST /api/sheets/table/{shape}": None, "POST /api/sheets/{sheet_id}/edits": "sheets",
    "POST /api/sheets/{sheet_id}/release": "sheets", "POST /api/sheets/release": "sheets", "POST /api/sheets/{sheet_id}/paste": None,
    "POST /api/sheets/{sheet_id}/retire": "sheets", "POST /api/sheets/{sheet_id}/days": "sheets",
    "POST /api/sheets/{sheet_id}/drop": "sheets", "POST /api/questions/bridge": None, "POST /api/rounds": "rounds",
    "POST /api/rounds/{round_id}/change": "rounds", "POST /api/rounds/{round_id}/drop": "rounds",
    "POST /api/rounds/{round_id}/tally": "rounds", "POST /api/rounds/{round_id}/accept": "standards",
    "POST /api/rounds/{round_id}/inputs": "standards", "POST /api/rounds/{round_id}/proposals": "rounds",
    "POST /api/rounds/{round_id}/proposals/percent": "rounds", "POST /api/rounds/{round_id}/proposals/list": "rounds",
    "POST /api/rounds/{round_id}/proposals/file": "rounds", "POST /api/rounds/{round_id}/proposals/withdraw": "rounds",
    "POST /api/inquiries/pairs/{pair_id}/forget": "inquiries",
    "POST /api/inquiries": "inquiries", "PATCH /api/inquiries/{inquiry_id}": "inquiries", "PUT /api/inquiries/{inquiry_id}/builds": "inquiries",
    "POST /api/inquiries/{inquiry_id}/files": "inquiries", "POST /api/inquiries/{inquiry_id}/files/{file_id}/again": "inquiries",
    "POST /api/inquiries/{inquiry_id}/files/{file_id}/drop": "inquiries", "POST /api/inquiries/{inquiry_id}/files/{file_id}/bill": "inquiries",
    "PUT /api/inquiries/{inquiry_id}/files/{file_id}/map": "inquiries", "POST /api/inquiries/{inquiry_id}/pair": "inquiries", "POST /api/inquiries/{inquiry_id}/data": "inquiries",
    "POST /api/inquiries/{inquiry_id}/questions/{question_id}/drop": "inquiries", "POST /api/inquiries/{inquiry_id}/answers": "inquiries",
    "POST /api/inquiries/{inquiry_id}/result": "sheets", "POST /api/inquiries/{inquiry_id}/decisions": "inquiries",
    "POST /api/inquiries/{inquiry_id}/decisions/{batch}/back": "inquiries", "POST /api/inquiries/{inquiry_id}/parts": "inquiries",
    "POST /api/inquiries/{inquiry_id}/lines/{line_id}/mend": "inquiries", "POST /api/inquiries/{inquiry_id}/lines/{line_id}/waive": "inquiries",
    "POST /api/inquiries/{inquiry_id}/lines/{line_id}/ask": "inquiries",
    "POST /api/hooks": "hooks", "POST /api/hooks/{hook_id}/drop": "hooks", "POST /api/hooks/tellings/{telling_id}/again": "hooks",
    "POST /api/handover": "handover", "PUT /api/handover/words": "handover", "POST /api/handover/{handover_id}/routing": "handover",
    "POST /api/handover/{handover_id}/read": "handover", "POST /api/handover/{handover_id}/decisions": "handover",
    "POST /api/handover/{handover_id}/by-hand": "handover", "POST /api/handover/{handover_id}/keep": "handover",
    "POST /api/handover/{handover_id}/by-hand/{by_hand_id}/let-go": "handover", "POST /api/handover/{handover_id}/hand-over": "handover",
    "POST /api/handover/{handover_id}/finish": "handover", "POST /api/handover/{handover_id}/take-back": "handover",
    "POST /api/handover/{handover_id}/let-go": "handover", "PUT /api/handover/{handover_id}/known-as": "handover",
    "POST /api/buying/plans": "buying", "POST /api/buying/plans/of-inquiry/{inquiry_id}": "buying", "PATCH /api/buying/plans/{plan_id}": "buying",
    "POST /api/buying/plans/{plan_id}/propose": "rounds",
    "POST /api/buying/plans/{plan_id}/plan": "buying", "POST /api/buying/plans/{plan_id}/drop": "buying",
    "POST /api/buying/plans/{plan_id}/allow": "buying", "POST /api/buying/plans/{plan_id}/disallow": "buying",
    "POST /api/buying/plans/{plan_id}/hold": "buying", "POST /api/buying/plans/{plan_id}/let-go": "buying",
    "POST /api/buying/offers": "buying", "POST /api/buying/offers/{offer_id}/let-go": "buying", "PUT /api/buying/terms": "buying",
    "POST /api/buying/price-lists": "buying", "PUT /api/buying/price-lists/{list_id}/columns": "buying",
    "POST /api/buying/price-lists/{list_id}/keep": "buying", "POST /api/buying/price-lists/{list_id}/let-go": "buying",
    "POST /api/buying/rates": "buying", "POST /api/buying/feed": "buying", "POST /api/buying/plans/{plan_id}/asking": "buying",
    "POST /api/requests/of-plan/{plan_id}": "buying", "POST /api/requests/{request_id}/send": "buying",
    "POST /api/requests/{request_id}/remind": "buying", "POST /api/requests/{request_id}/answer": "buying",
    "POST /api/quotes/of-inquiry/{inquiry_id}": "buying", "PATCH /api/quotes/{quote_id}": "buying", "POST /api/quotes/{quote_id}/send": "buying",
    "POST /api/orders/of-plan/{plan_id}": "buying", "POST /api/orders/of-part": "buying", "PATCH /api/orders/{order_id}": "buying",
    "POST /api/orders/{order_id}/place": "buying", "POST /api/orders/{order_id}/cancel": "buying", "POST /api/orders/{order_id}/receive": "stock",
    "POST /api/orders/{order_id}/lines/{line_id}/close": "buying",
    "POST /api/findings/survey": None, "POST /api/findings/waivers": "sheets",
    "POST /api/findings/waivers/back": "sheets", "POST /api/jobs/{job_id}/stop": None,
}  # fmt: skip


class Writes:
    """The writes of the API's own document, each with a body that its schema takes."""

    def __init__(self) -> None:
        self.document: dict[str, Any] = api.get_openapi_schema(path_prefix="/api/")
        self.all: dict[str, dict[str, Any]] = {
            f"{method.upper()} {path}": operation
            for path, operations in self.document["paths"].items()
            for method, operation in operations.items()
            if method != "get" and (method, path) not in (("post", "/api/session"), ("post", "/api/session/sign-on"))
        }

    def value(self, schema: dict[str, Any]) -> Any:
        if "$ref" in schema:
            return self.value(self.document["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]])
        if "enum" in schema or "const" in schema:
            return schema.get("const") or schema["enum"][0]
        if "anyOf" in schema:
            return self.value(schema["anyOf"][0])
        match schema.get("type"):
            case "object":
                needed = schema.get("required", [])
                return {n: self.value(s) for n, s in schema.get("properties", {}).items() if n in needed}
            case "array":
                return []
            case "integer" | "number":
                return 1
            case "boolean":
                return False
            case _:
                return {"uuid": str(uuid.uuid4()), "date": "2026-12-01"}.get(schema.get("format", ""), "x")

    def send(self, client: Client, name: str) -> Any:
        operation = self.all[name]
        method, path = name.split(" ")
        query = "&".join(f"{p['name']}=x" for p in operation.get("parameters", []) if p["in"] == "query" and p["required"])
        shape = "csv" if "{shape}" in path else "999999"
        address = f"{re.sub(r'{[a-z_]+}', shape, path)}?{query}"
        content = operation.get("requestBody", {}).get("content", {})
        if "multipart/form-data" in content:
            return client.post(address, {"file": SimpleUploadedFile("list.csv", b"part;quantity\nA;1\n")})
        body = self.value(content["application/json"]["schema"]) if content else {}
        return client.generic(method, address, json.dumps(body), "application/json")


class Rights(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load(rod_and_tube())

    def test_prices_of_suppliers_are_kept_from_who_may_only_look_where_that_is_set(self) -> None:
        addresses = [
            re.sub(r"{[^}]+}", "1", path)
            for path, operations in api.get_openapi_schema(path_prefix="/api/")["paths"].items()
            if "get" in operations and path.split("/")[2] in ("buying", "orders", "quotes", "requests")
        ]
        self.assertGreater(len(addresses), 12)
        viewer, engineer = Api("viewer"), Api("engineer")
        for address in addresses:
            path = address.removeprefix("/api")
            with override_settings(PRICES_HIDDEN=True):
                self.assertEqual(viewer.get(path)[0], 403, path)
                self.assertNotEqual(engineer.get(path)[0], 403, path)
            self.assertNotEqual(viewer.get(path)[0], 403, path)
        with override_settings(PRICES_HIDDEN=True):
            self.assertEqual([viewer.get("/session")[1]["sees_prices"], engineer.get("/session")[1]["sees_prices"]], [False, True])

    def test_every_write_stands_in_the_table(self) -> None:
        self.assertEqual(set(Writes().all), set(RIGHTS))

    def test_nobody_writes_anything(self) -> None:
        writes = Writes()
        for name in RIGHTS:
            self.assertEqual(writes.send(Client(), name).status_code, 401, name)

    def test_each_role_writes_what_the_table_says_and_nothing_is_read_before(self) -> None:
        writes = Writes()
        for role in GROUPS:
            client = Client()
            client.force_login(person(role))
            for name, subject in RIGHTS.items():
                if name == "DELETE /api/session":
                    continue
                if subject is None or subject in GROUPS[role]:
                    answered = writes.send(client, name).status_code
                    self.assertNotIn(answered, (401, 403), (role, name))
                    self.assertLess(answered, 500, (role, name))
                    continue
                # A file of somebody who may not bring it in is not even opened.
                with patch.object(apart, "_ask", side_effect=AssertionError("a file was read before the right was checked")):
                    answer = writes.send(client, name)
                self.assertEqual(answer.status_code, 403, (role, name, answer.content[:200]))
                self.assertIn("Nothing was saved", answer.json()["message"])

    def test_the_session_says_the_same_as_the_refusal(self) -> None:
        told = Api("viewer").get("/session")[1]["refused"]
        self.assertEqual(set(told), set().union(*GROUPS.values()))
        status, said = Api("viewer").post("/parts", {"number": "X", "kind": "bought", "unit": "ea"})
        self.assertEqual((status, said["message"]), (403, f"{told['parts']} Nothing was saved."))
        self.assertNotIn("standards", Api("accountant").get("/session")[1]["refused"])


class Doors(TestCase):
    def test_a_write_carries_the_token_of_its_page(self) -> None:
        person("engineer")
        client = Client(enforce_csrf_checks=True)
        client.force_login(person("engineer"))
        body = {"number": "X-1", "kind": "bought", "unit": "ea"}
        self.assertEqual(client.post("/api/parts", body, content_type="application/json").status_code, 403)
        client.get("/api/session")
        token = client.cookies["csrftoken"].value
        sent = client.post("/api/parts", body, content_type="application/json", headers={"X-CSRFToken": token})
        self.assertEqual(sent.status_code, 200, sent.content)
        stranger = Client(enforce_csrf_checks=True)
        signed = stranger.post("/api/session", {"user": "engineer", "password": PASSWORD}, content_type="application/json")
        self.assertEqual(signed.status_code, 422)
        self.assertIn("out of date", signed.json()["message"])

    def test_signing_out_ends_the_session(self) -> None:
        api = Api("engineer")
        self.assertEqual(api.get("/parts")[0], 200)
        answer = api.client.delete("/api/session")
        self.assertEqual((answer.json()["user"], answer["Clear-Site-Data"]), ("", '"cache"'))
        self.assertEqual(api.get("/parts")[0], 401)

    def test_headers(self) -> None:
        answer = Client().get("/api/session")
        policy = answer["Content-Security-Policy"]
        for words in ("default-src 'self'", "object-src 'none'", "frame-ancestors 'none'", "base-uri 'none'", "form-action 'self'"):
            self.assertIn(words, policy)
        self.assertNotIn("*", policy)
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")
        self.assertEqual(answer["X-Frame-Options"], "DENY")
        self.assertEqual(answer["Referrer-Policy"], "same-origin")
        self.assertEqual(answer["Cross-Origin-Opener-Policy"], "same-origin")
        self.assertEqual(answer["Cache-Control"], "no-store")
        self.assertTrue(answer.cookies["csrftoken"]["samesite"])

    def test_the_document_of_the_api_is_for_people_who_are_signed_in(self) -> None:
        self.assertEqual(Client().get("/api/openapi.json").status_code, 401)
        self.assertEqual(Api("viewer").get("/openapi.json")[0], 200)

    def test_too_much_and_unreadable_json_are_said_in_words(self) -> None:
        api = Api("engineer")
        answer = api.client.generic("POST", "/api/parts", b"x" * (settings.DATA_UPLOAD_MAX_MEMORY_SIZE + 1), "application/json")
        self.assertEqual((answer.status_code, "at once" in answer.json()["message"]), (413, True))
        for body in (b"{", b'{"number": Infinity}', b'{"number": "\\ud800"}', b"\xff"):
            answer = api.client.generic("POST", "/api/parts", body, "application/json")
            self.assertEqual(answer.status_code, 400, body)
            self.assertIn("JSON", answer.json()["message"])
