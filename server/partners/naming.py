"""Partners as they are typed: by name or code, in any spelling of small and capital letters; who is new is made."""

from collections.abc import Iterable
from typing import Any

from django.db import connection
from django.db.models import Q
from django.db.models.functions import Upper
from jobs.locks import PARTNERS
from simple_history.utils import bulk_create_with_history, bulk_update_with_history

from partners.models import ROLES, Partner

__all__ = ["known_partners", "next_code", "partners_named"]


def _plain(text: str) -> str:
    """Text as the database compares it: in capital letters, one for one. Python's own capital ß is SS, the database's is ß.

    >>> _plain(" Groß  & Söhne")
    'GROß & SÖHNE'
    """
    return "".join(c.upper() if len(c.upper()) == 1 else c for c in " ".join(text.split()))


def known_partners(texts: Iterable[str]) -> dict[str, Partner]:
    """Those that are known of some names and codes, by the text as it was given. One query."""
    by_plain: dict[str, list[str]] = {}
    for text in texts:
        if _plain(text):
            by_plain.setdefault(_plain(text), []).append(text)
    if not by_plain:
        return {}
    asked = Partner.objects.annotate(upper_name=Upper("name"), upper_code=Upper("code"))
    rows = list(asked.filter(Q(upper_name__in=by_plain) | Q(upper_code__in=by_plain)))
    found: dict[str, Partner] = {}
    # A name stands before a code that reads like it.
    for plain in (lambda p: p.code, lambda p: p.name):
        for partner in rows:
            found |= dict.fromkeys(by_plain.get(_plain(plain(partner)), ()), partner)
    return found


def next_code() -> int:
    """The number of the next running code; the caller holds the lock of partners."""
    codes = Partner.objects.filter(code__iregex=r"^P[0-9]{4,9}$").values_list("code", flat=True)
    return max((int(c[1:]) for c in codes), default=0) + 1


def partners_named(texts: Iterable[str], role: str, user: Any = None, reason: str = "") -> dict[str, str]:
    """The name of the partner that each text means; one that nobody knew is made, and each has the role from now on.

    Empty text means nobody. Within a transaction of the caller, who has checked the right to what names them.
    """
    assert role in ROLES
    wanted = {t for t in texts if _plain(t)}
    if not wanted:
        return {}
    known = known_partners(wanted)
    if len(known) < len(wanted):
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [PARTNERS])
        known = known_partners(wanted)
    note = {"default_user": user, "default_change_reason": reason, "batch_size": 2000}
    fresh: dict[str, Partner] = {}
    for text in sorted(wanted - known.keys()):
        if _plain(text) not in fresh:
            fresh[_plain(text)] = Partner(code="", name=" ".join(text.split()), **{role: True})
        known[text] = fresh[_plain(text)]
    if fresh:
        for number, partner in enumerate(fresh.values(), next_code()):
            partner.code = f"P{number:04d}"
        bulk_create_with_history(list(fresh.values()), Partner, **note)
    turned = {p.pk: p for p in known.values() if not getattr(p, role)}
    for partner in turned.values():
        setattr(partner, role, True)
        partner.version += 1
    if turned:
        bulk_update_with_history(list(turned.values()), Partner, [role, "version"], **note)
    return {text: partner.name for text, partner in known.items()}
