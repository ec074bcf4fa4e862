"""What every stand-in is made of: a server on loopback, how its services behave just now, and the page that tells them."""

import threading
import time
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs

__all__ = ["StandIn", "StandInHandler"]


class StandIn(ThreadingHTTPServer):
    """Services of one process.

    Attributes:
        modes: service → how it behaves just now, a name of ``choices``.
        asked: calls so far, of all services together.
    """

    daemon_threads = True

    def __init__(
        self, port: int, handler: type[BaseHTTPRequestHandler], title: str, services: dict[str, str], choices: dict[str, str]
    ) -> None:
        super().__init__(("127.0.0.1", port), handler)
        self.title, self.services, self.choices = title, services, choices
        self.modes = dict.fromkeys(services, "well")
        self.asked = 0
        self._calls: dict[str, list[float]] = {}
        self._lock = threading.Lock()

    def handle_error(self, request: Any, client_address: Any) -> None:
        """Who was not waited for says nothing of it."""

    def counted(self) -> None:
        """One more call came."""
        with self._lock:
            self.asked += 1

    def within(self, key: str, most: int, seconds: float) -> float:
        """Take one more call of a service if that is within its limit: 0, or the seconds until the next one is taken."""
        with self._lock:
            now = time.monotonic()
            calls = [t for t in self._calls.get(key, ()) if now - t < seconds]
            self._calls[key] = calls
            if len(calls) >= most:
                return seconds - (now - calls[0])
            calls.append(now)
            return 0.0


class StandInHandler(BaseHTTPRequestHandler):
    """The page of a stand-in, and how its answers are sent."""

    server: StandIn
    #: Bytes of a call that are read.
    MOST = 1_000_000

    def page(self) -> None:
        """The page that shows how each service behaves, and lets a person change it."""
        parts = [
            '<!doctype html><html lang="en"><title>',
            escape(self.server.title),
            ', a stand-in</title><meta name="viewport" content="width=device-width"><h1>',
            escape(self.server.title),
            ", a stand-in</h1><p>It knows made-up parts, and misbehaves as it is told here.</p>",
        ]
        for service, words in self.server.services.items():
            choices = "".join(
                f'<p><label><input type="radio" name="mode" value="{name}"{" checked" if name == self.server.modes[service] else ""}> '
                f"{escape(name)}: {escape(meaning)}</label></p>"
                for name, meaning in self.server.choices.items()
            )
            parts.append(
                f'<form method="post" action="/switch"><h2>{escape(words)}</h2><input type="hidden" name="service" value="{escape(service)}">'
                f"{choices}<button>So it is</button></form>"
            )
        parts.append(f"<p>{self.server.asked} calls so far.</p></html>")
        self.say(200, "".join(parts), "text/html; charset=utf-8")

    def switched(self) -> None:
        """Take what the page was told."""
        fields = parse_qs(self.body().decode("utf-8", "replace"))
        mode = fields.get("mode", [""])[0]
        service = fields.get("service", [next(iter(self.server.services))])[0]
        if mode not in self.server.choices or service not in self.server.services:
            return self.say(422, "{}")
        self.server.modes[service] = mode
        return self.say(303, "", more={"Location": "/"})

    def body(self) -> bytes:
        """What was sent with the call, bounded."""
        said = self.headers.get("Content-Length") or "0"
        return self.rfile.read(min(int(said) if said.isdecimal() else 0, self.MOST))

    def say(self, status: int, body: str, kind: str = "application/json", more: dict[str, str] | None = None) -> None:
        """Answer."""
        content = body.encode()
        self.send_response(status)
        for name, value in {"Content-Type": kind, "Content-Length": str(len(content)), **(more or {})}.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(content)

    def log_message(self, format: str, *args: Any) -> None:  # noqa: A002
        pass
