"""Other programs are told what happens: signed, tried again, listed with what was answered; and nothing is ever sent to where it may not be.

The signature is held against HMAC as the standard library computes it (RFC 2104), over the bytes that really came.
"""

import hashlib
import hmac
import json
import os
import socket
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any
from unittest.mock import patch

from definition.models.sheets import BuildSheet
from django.test import TestCase, override_settings
from django.utils.timezone import localdate, now
from testing import Api, load, rod_and_tube

from events.happened import happened, send
from events.models import Telling

_KEY = "a-key-of-sixteen-or-more"


class Listener(HTTPServer):
    """Hears what is sent to it, and answers as it is told."""

    def __init__(self) -> None:
        super().__init__(("127.0.0.1", 0), _Hears)
        self.heard: list[tuple[str, dict[str, str], bytes]] = []
        self.status, self.location = 200, ""


class _Hears(BaseHTTPRequestHandler):
    server: Listener

    def do_POST(self) -> None:
        body = self.rfile.read(int(self.headers["Content-Length"]))
        self.server.heard.append((self.path, dict(self.headers.items()), body))
        self.send_response(self.server.status)
        if self.server.location:
            self.send_header("Location", self.server.location)
        self.end_headers()

    def log_message(self, format: str, *args: Any) -> None:  # noqa: A002
        pass


@contextmanager
def places(**named: dict[str, Any]) -> Iterator[None]:
    file = Path(tempfile.mkdtemp()) / "services.json"
    hooks = {n: {"words": f"the {n}", "key": _KEY} | p for n, p in named.items()}
    file.write_text(json.dumps({"format": 1, "hooks": hooks}))
    os.chmod(file, 0o600)
    with override_settings(SERVICES=str(file)):
        yield


class Telling_(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.engineer = Api("engineer")
        self.listener = Listener()
        threading.Thread(target=self.listener.serve_forever, daemon=True).start()
        self.addCleanup(self.listener.server_close)
        self.addCleanup(self.listener.shutdown)
        self.at = f"http://127.0.0.1:{self.listener.server_port}/told?by=us"

    def listens(self, place: str = "line", *events: str) -> dict[str, Any]:
        body = {"name": "the line's program", "place": place, "events": list(events) or ["sheet released"]}
        status, answer = self.engineer.post("/hooks", body)
        self.assertEqual(status, 200, answer)
        return answer

    def released(self) -> None:
        sheet = BuildSheet.objects.get(part__number="RT-1")
        with self.captureOnCommitCallbacks(execute=True):
            body = {"version": sheet.version, "reason": "first", "first_day": localdate().isoformat()}
            status, saved = self.engineer.post(f"/sheets/{sheet.pk}/release", body)
        self.assertEqual(status, 200, saved)

    def last(self) -> dict[str, Any]:
        return self.engineer.get("/hooks")[1]["tellings"][0]

    def test_a_release_is_told_and_signed(self) -> None:
        with places(line={"address": self.at, "resolves_to": ["127.0.0.1"]}):
            self.listens()
            self.released()
            ((path, headers, body),) = self.listener.heard
            said = json.loads(body)
            self.assertEqual(
                (path, said["event"], said["part"], said["revision"], said["by"]),
                ("/told?by=us", "sheet released", "RT-1", "A", "engineer"),
            )
            mac = hmac.new(_KEY.encode(), headers["Tally-Time"].encode() + b"." + body, hashlib.sha256).hexdigest()
            self.assertEqual(headers["Tally-Signature"], mac)
            self.assertEqual((self.last()["state"], self.last()["answer"]), ("told", "it answered 200"))
            # Neither the key nor the address is told to anybody here.
            shown = json.dumps(self.engineer.get("/hooks")[1])
            self.assertNotIn(_KEY, shown)
            self.assertNotIn("127.0.0.1", shown)

    def test_what_did_not_happen_is_not_told(self) -> None:
        with places(line={"address": self.at, "resolves_to": ["127.0.0.1"]}):
            self.listens()
            sheet = BuildSheet.objects.get(part__number="RT-1")
            with self.captureOnCommitCallbacks(execute=True):
                self.engineer.post(
                    f"/sheets/{sheet.pk}/release", {"version": sheet.version, "reason": " ", "first_day": localdate().isoformat()}
                )
                happened("round accepted", "somebody", round="R")
            self.assertEqual((self.listener.heard, Telling.objects.count()), ([], 0))

    def test_tried_again_later_each_time_then_given_up_and_told_once_more_by_hand(self) -> None:
        with places(line={"address": self.at, "resolves_to": ["127.0.0.1"]}):
            answer = self.listens()
            self.listener.status = 503
            self.released()
            waits = []
            for _ in range(5):
                telling = Telling.objects.get()
                self.assertEqual((telling.state, telling.answer), ("waiting", "it answered 503"))
                assert telling.next_at is not None
                waits.append(round((telling.next_at - now()) / timedelta(minutes=1)))
                send.call(telling.pk)
            self.assertEqual(waits, [1, 5, 30, 120, 720])
            self.assertEqual((Telling.objects.get().state, len(self.listener.heard)), ("given up", 6))
            send.call(Telling.objects.get().pk)
            self.assertEqual(len(self.listener.heard), 6)
            self.listener.status = 204
            again = self.engineer.post(f"/hooks/tellings/{Telling.objects.get().pk}/again", {})[1]["tellings"][0]
            self.assertEqual((again["state"], again["answer"]), ("told", "it answered 204"))
            self.engineer.post(f"/hooks/{answer['hooks'][0]['id']}/drop", {})
            self.assertEqual(self.engineer.get("/hooks")[1]["hooks"], [])
            self.assertEqual(self.engineer.post(f"/hooks/{answer['hooks'][0]['id']}/drop", {})[0], 404)

    def test_nothing_is_sent_to_where_it_may_not_be(self) -> None:
        elsewhere = Listener()
        threading.Thread(target=elsewhere.serve_forever, daemon=True).start()
        self.addCleanup(elsewhere.server_close)
        self.addCleanup(elsewhere.shutdown)
        away = f"http://127.0.0.1:{elsewhere.server_port}/"
        with places(
            line={"address": self.at, "resolves_to": ["127.0.0.1"]},
            inside={"address": self.at},
            moved={"address": self.at, "resolves_to": ["192.0.2.7"]},
        ):
            # A redirect is not followed.
            self.listens()
            self.listener.status, self.listener.location = 302, away
            self.released()
            self.assertIn("it answered 302; where it leads is not followed", self.last()["answer"])
            self.assertEqual(elsewhere.heard, [])
            heard = len(self.listener.heard)
            # An address that is not public, without an administrator's word for it; a name that leads elsewhere than it may.
            for place in ("inside", "moved"):
                self.listens(place, "round accepted")
            with self.captureOnCommitCallbacks(execute=True):
                happened("round accepted", "accountant", round="R")
            self.assertEqual(
                {t["answer"].partition(" leads ")[2] for t in self.engineer.get("/hooks")[1]["tellings"][:2]},
                {"to an address that is not allowed; an administrator says which are"},
            )
            self.assertEqual(len(self.listener.heard), heard)
        # A name that is looked up once: what it leads to a moment later changes nothing.
        leads = [[(2, 1, 6, "", (address, self.listener.server_port))] for address in ("127.0.0.1", "198.51.100.7")]
        really = socket.getaddrinfo

        def looked_up(host: str, *more: Any, **named: Any) -> Any:
            return leads.pop(0) if host == "hooks.example" else really(host, *more, **named)

        address = f"http://hooks.example:{self.listener.server_port}/"
        with places(named={"address": address, "resolves_to": ["127.0.0.1"]}), patch("socket.getaddrinfo", looked_up):
            self.listener.status, self.listener.location = 200, ""
            self.listens("named", "handover done")
            with self.captureOnCommitCallbacks(execute=True):
                happened("handover done", "engineer", number="HO-1")
            self.assertEqual(self.listener.heard[-1][1]["Host"], f"hooks.example:{self.listener.server_port}")
        # A place that the administrator took away.
        with places():
            with self.captureOnCommitCallbacks(execute=True):
                happened("sheet released", "engineer", part="X")
            self.assertIn("does not allow this place any more", self.last()["answer"])

    def test_only_what_is_allowed_is_listened_to_and_only_by_who_may(self) -> None:
        with places(line={"address": self.at}):
            status, refused = self.engineer.post("/hooks", {"name": "", "place": "http://elsewhere.example/", "events": ["everything"]})
            self.assertEqual((status, [p["place"] for p in refused["problems"]]), (422, ["name", "place", "events"]))
            self.assertEqual(Api("viewer").post("/hooks", {"name": "n", "place": "line", "events": ["sheet released"]})[0], 403)
