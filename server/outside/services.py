"""Which services outside there are, and the accounts we have with them: a file that an administrator keeps and only the server reads.

``TALLY_SERVICES`` names it. It is JSON, a version number and, by a name of our own, where each is and how it is spoken to::

    {"format": 1, "suppliers": {"northquay": {"words": "Northquay, prices by number", "kind": "items", "address": "https://...", "key": "...",
     "calls_a_minute": 300, "holds_hours": 24}}, "rates": {"words": "...", "address": "https://..."},
     "records": {"yard": {"words": "...", "kind": "resources", "address": "https://...", "key": "..."}, "files": {"words": "...", "kind": "folder",
     "folder": "/srv/exchange"}}, "hooks": {"line": {"words": "...", "address": "https://...", "key": "...", "resolves_to": ["192.0.2.7"]}},
     "sign_on": {"words": "...", "issuer": "https://...", "client": "...", "secret": "...", "makes_people": true, "groups": "groups",
     "roles": {"their-group": "engineer"}}}

Nothing of it but the words and the name ever leaves the server: neither the address nor the key.
"""

import os
import stat
from pathlib import Path
from typing import Literal

from django.conf import settings
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from tally_core.basics.errors import TallyError

__all__ = [
    "HookPlace",
    "RateService",
    "RecordService",
    "SignOnService",
    "SupplierService",
    "hook_places",
    "rate_service",
    "record_services",
    "sign_on_service",
    "supplier_services",
]


class RateService(BaseModel):
    """A feed of rates."""

    model_config = ConfigDict(extra="forbid", hide_input_in_errors=True)

    words: str = Field(max_length=100)
    address: str = Field(pattern="^https?://")
    key: str = Field("", repr=False)


class SupplierService(RateService):
    """A supplier's service. ``kind`` is how it is spoken to, ``holds_hours`` how long an answer is not asked for again."""

    kind: Literal["items", "quotation"]
    calls_a_minute: int = Field(60, ge=1, le=100_000)
    holds_hours: int = Field(24, ge=0, le=10_000)


class RecordService(BaseModel):
    """A system of record: spoken to at an address, or by files in a folder."""

    model_config = ConfigDict(extra="forbid", hide_input_in_errors=True)

    words: str = Field(max_length=100)
    kind: Literal["resources", "folder"]
    address: str = Field("", pattern="^(https?://|$)")
    key: str = Field("", repr=False)
    folder: str = ""


class HookPlace(BaseModel):
    """A place that may be told what happened. ``resolves_to``: the addresses its name may lead to; without them, any public one."""

    model_config = ConfigDict(extra="forbid", hide_input_in_errors=True)

    words: str = Field(max_length=100)
    address: str = Field(pattern="^https?://")
    key: str = Field(min_length=16, repr=False)
    resolves_to: list[str] = []


class SignOnService(BaseModel):
    """The company's own sign-on, by OpenID Connect.

    ``name`` and ``full_name`` are its claims that tell by what name one signs in here and how one is called. Whoever comes and is not known is made
    somebody here with ``makes_people``. ``groups`` is the claim that lists groups; where it is stated, ``roles`` says what each is here, at each coming;
    roles that stand for none are given here.
    """

    model_config = ConfigDict(extra="forbid", hide_input_in_errors=True)

    words: str = Field(max_length=100)
    issuer: str = Field(pattern="^https?://")
    client: str
    secret: str = Field(repr=False)
    scope: str = Field("openid profile", pattern="openid")
    name: str = "preferred_username"
    full_name: str = "name"
    makes_people: bool = False
    groups: str = ""
    roles: dict[str, str] = {}


class _Services(BaseModel):
    model_config = ConfigDict(extra="forbid", hide_input_in_errors=True)

    format: Literal[1]
    suppliers: dict[str, SupplierService] = {}
    rates: RateService | None = None
    records: dict[str, RecordService] = {}
    hooks: dict[str, HookPlace] = {}
    sign_on: SignOnService | None = None


def _services() -> _Services:
    file = settings.SERVICES
    if not file:
        return _Services(format=1)
    try:
        if os.stat(file).st_mode & (stat.S_IRWXG | stat.S_IRWXO):
            raise TallyError("The file of services may be read by others than the server; an administrator takes that right away.")
        return _Services.model_validate_json(Path(file).read_bytes())
    except OSError:
        return _Services(format=1)
    except ValidationError as error:
        where = ".".join(str(x) for x in error.errors()[0]["loc"])
        raise TallyError(f"The file of services is not as it should be, at {where or 'its beginning'}; ask an administrator.") from None


def supplier_services() -> dict[str, SupplierService]:
    """The services of suppliers, by our name for each. Raises TallyError where the file is not as it should be."""
    return _services().suppliers


def rate_service() -> RateService | None:
    """The feed of rates, if there is one. Raises TallyError where the file is not as it should be."""
    return _services().rates


def record_services() -> dict[str, RecordService]:
    """The systems of record, by our name for each. Raises TallyError where the file is not as it should be."""
    return _services().records


def hook_places() -> dict[str, HookPlace]:
    """The places that may be told what happened, by our name for each. Raises TallyError where the file is not as it should be."""
    return _services().hooks


def sign_on_service() -> SignOnService | None:
    """The company's own sign-on, if there is one. Raises TallyError where the file is not as it should be."""
    return _services().sign_on
