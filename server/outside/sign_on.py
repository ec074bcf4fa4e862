"""A company's own sign-on, by OpenID Connect: where to send who wants to come in, and who came back.

The authorization code with PKCE; the answer belongs to the session that asked (state, nonce), its token is signed by a key of the issuer's, is
for us and has not run out. All that is Authlib's; what is ours is that the issuer is the one that was written down, and words.
"""

from functools import lru_cache
from typing import Any

import requests
from authlib.integrations.django_client import DjangoOAuth2App, OAuth, OAuthError
from authlib.oauth2 import OAuth2Error
from django.http import HttpRequest
from joserfc.errors import JoseError
from tally_core.basics.errors import TallyError

from outside.services import SignOnService

__all__ = ["address_to_sign_on", "who_signed_on"]

_TIMEOUT = 4.0
#: What a wrong answer of theirs ends in, of whatever library it comes from.
_WRONG = (OAuthError, OAuth2Error, JoseError, requests.RequestException, ValueError, KeyError, TypeError, RuntimeError)


@lru_cache(maxsize=2)
def _at(service: str) -> DjangoOAuth2App:
    """The client of a service, as it stands in the file; what the issuer says of itself is asked for once, its keys again where one is new."""
    of = SignOnService.model_validate_json(service)
    return OAuth().register(
        "sign_on",
        client_id=of.client,
        client_secret=of.secret,
        server_metadata_url=f"{of.issuer.rstrip('/')}/.well-known/openid-configuration",
        client_kwargs={"scope": of.scope, "code_challenge_method": "S256", "default_timeout": _TIMEOUT},
    )


def _client(service: SignOnService) -> DjangoOAuth2App:
    client = _at(service.model_dump_json())
    said = client.load_server_metadata().get("issuer", "")
    if said.rstrip("/") != service.issuer.rstrip("/"):
        _at.cache_clear()
        raise TallyError(f"{service.words} says that it is another one; tell whoever keeps this machine.")
    return client


def address_to_sign_on(request: HttpRequest, service: SignOnService, back: str) -> str:
    """Where a browser goes to prove who is there; the session keeps what the answer must belong to. Raises TallyError where nobody answers."""
    try:
        client = _client(service)
        made = client.create_authorization_url(back)
        client.save_authorize_data(request, redirect_uri=back, **made)
    except _WRONG:
        raise TallyError(f"{service.words} does not answer just now; try again in a moment, or sign in by password.") from None
    return str(made["url"])


def who_signed_on(request: HttpRequest, service: SignOnService) -> dict[str, Any]:
    """What the service says of who came back: ``sub`` and more, proven. Raises TallyError where it does not hold."""
    if request.GET.get("error") == "access_denied":
        raise TallyError(f"You came back from {service.words} without signing in.")
    try:
        client = _client(service)
        options = {
            "iss": {"essential": True, "value": client.load_server_metadata()["issuer"]},
            "aud": {"essential": True, "value": service.client},
        }
        claims = dict(client.authorize_access_token(request, claims_options=options)["userinfo"])
        if not isinstance(claims["sub"], str) or not 0 < len(claims["sub"]) <= 255:
            raise ValueError("sub")
    except _WRONG:
        raise TallyError(f"What {service.words} answered does not hold, or came too late; try again.") from None
    return claims
