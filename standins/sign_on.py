"""A company's sign-on by OpenID Connect, with made-up people. ``python -m standins.sign_on PORT``.

It says where its addresses are, lets whoever comes choose who they are, and gives a code, for once, for tokens that it signs (RS256, PKCE with
S256). ``/`` is the page that makes it slow to prove, forge or down. Which codes and tokens there are, it forgets when it ends.
"""

import base64
import hashlib
import json
import secrets
import sys
import threading
import time
from html import escape
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

from joserfc import jwt
from joserfc.jwk import KeySet, RSAKey

from standins.service import StandIn, StandInHandler

__all__ = ["CLIENT", "MODES", "PEOPLE", "SECRET", "Server", "serve"]

CLIENT, SECRET = "round-tally", "rope-and-anchor"
MODES = {
    "well": "proves who comes by a password",
    "strong": "proves who comes by a password and a second factor",
    "forged": "its tokens are signed by a key that it does not publish",
    "stranger": "its tokens are for another program",
    "replayed": "its tokens answer another request",
    "elsewhere": "it says that it is somebody else",
    "down": "answers 503",
}
PEOPLE = {
    "y-17": {"preferred_username": "ines", "name": "Ines Rove", "groups": ["yard-drawing-office", "yard-all"]},
    "y-18": {"preferred_username": "tom", "name": "Tom Fenner", "groups": ["yard-purchasing"]},
    "y-19": {"preferred_username": "engineer", "name": "Another engineer", "groups": ["yard-drawing-office"]},
    "y-20": {"preferred_username": "a b/c", "name": "A name that is none here", "groups": []},
}
_NAME = "sign-on"
_HOLDS = 60.0


class Server(StandIn):
    """The sign-on, with its key and the codes that were given."""

    def __init__(self, port: int) -> None:
        super().__init__(port, _Handler, "Sign-on", {_NAME: "Sign-on"}, MODES)
        self.key, self.other = (RSAKey.generate_key(2048, {"kid": f"key-{secrets.token_hex(4)}", "use": "sig"}) for _ in range(2))
        #: Code → who it is for, what was asked for it, and until when it holds.
        self.codes: dict[str, tuple[str, dict[str, str], float]] = {}
        self.lock = threading.Lock()

    @property
    def issuer(self) -> str:
        return f"http://127.0.0.1:{self.server_port}"


class _Handler(StandInHandler):
    server: Server

    def do_GET(self) -> None:
        mode, path = self.server.modes[_NAME], urlsplit(self.path).path
        if path == "/":
            return self.page()
        if mode == "down":
            return self.say(503, '{"error": "temporarily_unavailable"}')
        if path == "/.well-known/openid-configuration":
            at = self.server.issuer
            return self.say(
                200,
                json.dumps(
                    {
                        "issuer": "https://elsewhere.example" if mode == "elsewhere" else at,
                        "authorization_endpoint": f"{at}/authorize",
                        "token_endpoint": f"{at}/token",
                        "jwks_uri": f"{at}/keys",
                        "response_types_supported": ["code"],
                        "subject_types_supported": ["public"],
                        "id_token_signing_alg_values_supported": ["RS256"],
                        "code_challenge_methods_supported": ["S256"],
                    }
                ),
            )
        if path == "/keys":
            return self.say(200, json.dumps(KeySet([self.server.key]).as_dict(private=False)))
        if path == "/authorize":
            return self._who()
        return self.say(404, "{}")

    def do_POST(self) -> None:
        path = urlsplit(self.path).path
        if path == "/switch":
            return self.switched()
        fields = {name: values[0] for name, values in parse_qs(self.body().decode("utf-8", "replace")).items()}
        if path == "/authorize":
            return self._came(fields)
        if path == "/token":
            return self._token(fields)
        return self.say(404, "{}")

    def _who(self) -> None:
        """The page on which one says who one is; no password is asked, since nobody here is real."""
        asked = {name: values[0] for name, values in parse_qs(urlsplit(self.path).query).items()}
        if asked.get("client_id") != CLIENT or asked.get("response_type") != "code" or asked.get("code_challenge_method") != "S256":
            return self.say(400, '{"error": "invalid_request"}')
        kept = "".join(f'<input type="hidden" name="{escape(n)}" value="{escape(v)}">' for n, v in asked.items())
        people = "".join(f'<p><button name="who" value="{key}">{escape(str(who["name"]))}</button></p>' for key, who in PEOPLE.items())
        self.say(
            200,
            '<!doctype html><html lang="en"><title>Sign-on, a stand-in</title><meta name="viewport" content="width=device-width"><h1>Who are you?</h1>'
            f'<form method="post" action="/authorize">{kept}{people}<p><button name="who" value="">Nobody, go back</button></p></form></html>',
            "text/html; charset=utf-8",
        )

    def _came(self, fields: dict[str, str]) -> None:
        who, back, state = fields.get("who", ""), fields.get("redirect_uri", ""), fields.get("state", "")
        answer = {"error": "access_denied", "state": state}
        if who in PEOPLE:
            code = secrets.token_urlsafe(24)
            with self.server.lock:
                self.server.codes[code] = (who, fields, time.monotonic() + _HOLDS)
            answer = {"code": code, "state": state}
        self.say(303, "", more={"Location": f"{back}?{urlencode(answer)}"})

    def _token(self, fields: dict[str, str]) -> None:
        named = self.headers.get("Authorization", "").removeprefix("Basic ")
        known = named == base64.b64encode(f"{CLIENT}:{SECRET}".encode()).decode()
        with self.server.lock:
            who, asked, until = self.server.codes.pop(fields.get("code", ""), ("", {}, 0.0))
        proof = base64.urlsafe_b64encode(hashlib.sha256(fields.get("code_verifier", "").encode()).digest()).rstrip(b"=").decode()
        if not known or not who or time.monotonic() > until or proof != asked.get("code_challenge"):
            return self.say(400, '{"error": "invalid_grant"}')
        mode, moment = self.server.modes[_NAME], int(time.time())
        claims: dict[str, Any] = {
            "iss": self.server.issuer,
            "sub": who,
            "aud": "another-program" if mode == "stranger" else CLIENT,
            "iat": moment,
            "exp": moment + 300,
            "nonce": "another" if mode == "replayed" else asked.get("nonce", ""),
            # Said to be given to us, and meant for another one.
            **({"azp": CLIENT} if mode == "stranger" else {}),
            "amr": ["pwd", "mfa"] if mode == "strong" else ["pwd"],
        }
        key = self.server.other if mode == "forged" else self.server.key
        # A forged one says that it is of the key that is known.
        token = jwt.encode({"alg": "RS256", "kid": self.server.key.kid}, claims | PEOPLE[who], key)
        self.say(200, json.dumps({"access_token": secrets.token_urlsafe(24), "token_type": "Bearer", "expires_in": 300, "id_token": token}))


def serve(port: int) -> None:
    """Answer until the process ends."""
    Server(port).serve_forever()


if __name__ == "__main__":
    serve(int(sys.argv[1]))
