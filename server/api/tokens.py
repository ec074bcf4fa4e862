"""Tokens of programs over HTTP: one's own, made and revoked."""

from typing import Any

from accounts.access import READABLE
from accounts.actions.keep_tokens import make_token, revoke_token
from accounts.models import Token
from django.http import HttpRequest
from django.utils.timezone import localdate
from ninja import Router, Schema

__all__ = ["router"]

router = Router(tags=["session"])


class TokenOut(Schema):
    """A token by its name and its first characters. ``holds``: it is taken; ``until``: the last day."""

    id: int
    name: str
    start: str
    subjects: list[str]
    made_at: str
    until: str
    used_at: str | None
    holds: bool


class TokensOut(Schema):
    """Those one has made, and what a token may be given to read."""

    tokens: list[TokenOut]
    readable: list[str]


class TokenIn(Schema):
    name: str
    subjects: list[str]
    days: int = 90


class TokenMade(TokenOut):
    """With the token itself, which is not told again."""

    token: str


def _token(of: Token) -> dict[str, Any]:
    return {
        "id": of.pk,
        "name": of.name,
        "start": of.start,
        "subjects": of.subjects,
        "made_at": of.made_at.isoformat(),
        "until": of.until.isoformat(),
        "used_at": of.used_at.isoformat() if of.used_at else None,
        "holds": of.revoked_at is None and of.until >= localdate(),
    }


@router.get("", response=TokensOut)
def list_tokens(request: HttpRequest) -> Any:
    """One's own, the newest first."""
    return {"tokens": [_token(t) for t in Token.objects.filter(user=request.user.pk)[:100]], "readable": list(READABLE)}


@router.post("", response=TokenMade)
def make(request: HttpRequest, payload: TokenIn) -> Any:
    """Make one."""
    made, token = make_token(request.user, payload.name, payload.subjects, payload.days)
    return _token(made) | {"token": token}


@router.post("/{token_id}/revoke", response=TokensOut)
def revoke(request: HttpRequest, token_id: int) -> Any:
    """It is taken no more."""
    revoke_token(request.user, token_id)
    return list_tokens(request)
