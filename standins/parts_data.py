"""Data of parts by maker's number, as a service over HTTP; made-up parts. ``python -m standins.parts_data PORT``.

``GET /v1/parts/NUMBER`` answers JSON, 404 for a number it does not know. ``/`` is the page that makes it slow, down, wrong or limiting.
"""

import json
import sys
import time
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from standins.service import StandIn, StandInHandler

__all__ = ["MODES", "Server", "serve"]

MODES = {
    "well": "answers at once",
    "slow": "answers after six seconds",
    "down": "answers 503",
    "wrong": "answers with wrong types, or breaks off",
    "limiting": "takes five calls a second, then answers 429",
}
_CALLS_A_SECOND = 5
_NAME = "parts-data"


class Server(StandIn):
    """The service, with how it behaves just now."""

    def __init__(self, port: int) -> None:
        super().__init__(port, _Handler, "Parts data", {_NAME: "Parts data"}, MODES)
        self.parts: dict[str, dict[str, Any]] = json.loads(Path(__file__).with_suffix(".json").read_text())


class _Handler(StandInHandler):
    server: Server

    def do_GET(self) -> None:
        if self.path.startswith("/v1/parts/"):
            return self._part(unquote(self.path.removeprefix("/v1/parts/")))
        if self.path == "/":
            return self.page()
        return self.say(404, "{}")

    def do_POST(self) -> None:
        if self.path == "/switch":
            return self.switched()
        return self.say(404, "{}")

    def _part(self, number: str) -> None:
        self.server.counted()
        mode = self.server.modes[_NAME]
        if mode == "down":
            return self.say(503, '{"message": "maintenance"}')
        if mode == "limiting" and self.server.within(_NAME, _CALLS_A_SECOND, 1.0):
            return self.say(429, "{}", more={"Retry-After": "1"})
        if mode == "slow":
            time.sleep(6)
        found = self.server.parts.get(number)
        if found is None:
            return self.say(404, '{"message": "not known"}')
        body = json.dumps({"number": number} | found)
        if mode == "wrong":
            body = json.dumps({"number": 7, "lifecycle": ["soon"], "values": "none"}) if len(number) % 2 else body[: len(body) // 2]
        return self.say(200, body)


def serve(port: int) -> None:
    """Serve until the process is ended."""
    Server(port).serve_forever()


if __name__ == "__main__":
    serve(int(sys.argv[1]))
