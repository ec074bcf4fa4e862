"""Data of parts by maker's number, as a service over HTTP; made-up parts. ``python -m standins.parts_data PORT``.

``GET /v1/parts/NUMBER`` answers JSON, 404 for a number it does not know. ``/`` is the page that makes it slow, down, wrong or limiting.
"""

import json
import sys
import threading
import time
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, unquote

__all__ = ["MODES", "Server", "serve"]

MODES = {
    "well": "answers at once",
    "slow": "answers after six seconds",
    "down": "answers 503",
    "wrong": "answers with wrong types, or breaks off",
    "limiting": "takes five calls a second, then answers 429",
}
_CALLS_A_SECOND = 5


class Server(ThreadingHTTPServer):
    """The service, with how it behaves just now."""

    daemon_threads = True

    def __init__(self, port: int) -> None:
        super().__init__(("127.0.0.1", port), _Handler)
        self.mode = "well"
        self.asked = 0
        self.parts: dict[str, dict[str, Any]] = json.loads(Path(__file__).with_suffix(".json").read_text())
        self._calls: list[float] = []
        self._lock = threading.Lock()

    def takes(self) -> bool:
        """Whether one more call is within the limit."""
        with self._lock:
            self.asked += 1
            now = time.monotonic()
            self._calls = [t for t in self._calls if now - t < 1]
            if self.mode == "limiting" and len(self._calls) >= _CALLS_A_SECOND:
                return False
            self._calls.append(now)
            return True


class _Handler(BaseHTTPRequestHandler):
    server: Server

    def do_GET(self) -> None:
        if self.path.startswith("/v1/parts/"):
            return self._part(unquote(self.path.removeprefix("/v1/parts/")))
        if self.path == "/":
            return self._say(200, self._page(), "text/html; charset=utf-8")
        return self._say(404, "{}")

    def do_POST(self) -> None:
        length = min(int(self.headers.get("Content-Length") or 0), 10_000)
        asked = parse_qs(self.rfile.read(length).decode("utf-8", "replace")).get("mode", [""])[0]
        if self.path != "/switch" or asked not in MODES:
            return self._say(422, "{}")
        self.server.mode = asked
        self.send_response(303)
        self.send_header("Location", "/")
        self.send_header("Content-Length", "0")
        self.end_headers()

    def _part(self, number: str) -> None:
        within = self.server.takes()
        mode = self.server.mode
        if mode == "down":
            return self._say(503, '{"message": "maintenance"}')
        if not within:
            return self._say(429, "{}", more={"Retry-After": "1"})
        if mode == "slow":
            time.sleep(6)
        found = self.server.parts.get(number)
        if found is None:
            return self._say(404, '{"message": "not known"}')
        body = json.dumps({"number": number} | found)
        if mode == "wrong":
            body = (
                json.dumps({"number": 7, "lifecycle": ["soon"], "values": "none"})
                if len(number) % 2
                else body[: len(body) // 2]
            )
        return self._say(200, body)

    def _page(self) -> str:
        choices = "".join(
            f'<p><label><input type="radio" name="mode" value="{name}"{" checked" if name == self.server.mode else ""}> '
            f"{escape(name)}: {escape(words)}</label></p>"
            for name, words in MODES.items()
        )
        return (
            '<!doctype html><html lang="en"><title>Parts data, a stand-in</title><meta name="viewport" content="width=device-width">'
            "<h1>Parts data, a stand-in</h1><p>It knows made-up parts, and misbehaves as it is told here.</p>"
            f'<form method="post" action="/switch">{choices}<button>So it is</button></form>'
            f"<p>{self.server.asked} calls so far; {len(self.server.parts)} parts known.</p></html>"
        )

    def _say(self, status: int, body: str, kind: str = "application/json", more: dict[str, str] | None = None) -> None:
        content = body.encode()
        self.send_response(status)
        for name, value in {"Content-Type": kind, "Content-Length": str(len(content)), **(more or {})}.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(content)

    def log_message(self, format: str, *args: Any) -> None:  # noqa: A002
        pass


def serve(port: int) -> None:
    """Serve until the process is ended."""
    Server(port).serve_forever()


if __name__ == "__main__":
    serve(int(sys.argv[1]))
