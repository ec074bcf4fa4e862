"""Make a partner or change one; what names it follows its name."""

import re
from typing import Any

from definition.models.parts import MakerNumber
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import IntegrityError, connection, transaction
from django.db.models import ManyToOneRel
from django.db.models.functions import Upper
from jobs.locks import PARTNERS
from partners.models import ROLES, Partner
from partners.naming import next_code
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from verbs.contract import held, writing

__all__ = ["FIELDS", "drop_partner", "join_partners", "save_partner"]

_LENGTHS = {"code": 20, "name": 200, "currency": 3, "contact": 200, "mail": 254, "note": 2000}
FIELDS = (*_LENGTHS, *ROLES)


def save_partner(user: Any, fields: dict[str, Any], code: str | None = None, version: int | None = None) -> Partner:
    """Make a partner, or with ``code`` change the one of that code; without a code a new one takes the next running one.

    Args:
        fields: names of :data:`FIELDS` to text, roles to bool; what is left out stays.

    Raises ProblemsError naming each field that cannot be kept, and Refused.
    """
    with writing(user, "partners"):
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [PARTNERS])
        row = Partner()
        if code is not None:
            row = held(Partner.objects.filter(code=code), version, code, f"Partner {code} is not known.")
        before = {n: getattr(row, n) for n in FIELDS}
        now = before | {n: " ".join(v.split()) if n in ("code", "name") else v for n, v in fields.items()}
        now["currency"] = now["currency"].upper()
        if not now["code"] and code is None:
            now["code"] = f"P{next_code():04d}"
        problems = _problems(now)
        for name in ("code", "name"):
            taken = Partner.objects.filter(**{f"{name}__iexact": now[name]}).exclude(pk=row.pk)
            if now[name] and (other := taken.first()) is not None:
                more = "; join the two where they are one firm" if row.pk else ""
                problems.append(Problem(name, f"{other.name} ({other.code}) has it already{more}"))
        if problems:
            raise ProblemsError(problems)
        if row.pk and now == before:
            return row
        for name, value in now.items():
            setattr(row, name, value)
        row.version = row.version + 1 if row.pk else 1
        row.save()
        if before["name"] and before["name"] != row.name:
            _name_everywhere(before["name"], row.name)
        return row


def _problems(now: dict[str, Any]) -> list[Problem]:
    found = []
    for name, most in _LENGTHS.items():
        text = now[name]
        if len(text) > most or not all(c.isprintable() or (name == "note" and c == "\n") for c in text):
            found.append(Problem(name, f"the {name} has at most {most} characters that can be printed"))
    if not now["name"]:
        found.append(Problem("name", "the name is needed"))
    if now["code"] and not re.fullmatch(r"[A-Za-z0-9._/-]+", now["code"]):
        found.append(Problem("code", "a code is made of letters, digits and . _ / -"))
    if now["currency"] and not re.fullmatch(r"[A-Z]{3}", now["currency"]):
        found.append(Problem("currency", "a currency has three letters, such as EUR"))
    if now["mail"]:
        try:
            validate_email(now["mail"])
        except ValidationError:
            found.append(Problem("mail", f"{now['mail'][:60]} is no address of mail"))
    if not any(now[role] for role in ROLES):
        found.append(Problem("supplier", "say whether it is a customer, a supplier or a maker"))
    return found


def _naming() -> list[tuple[Any, str]]:
    """Models that name a partner, and by which field; a history keeps the name of its day."""
    keys = [f for f in Partner._meta.get_fields(include_hidden=True) if isinstance(f, ManyToOneRel)]
    return [(k.related_model, k.field.name) for k in keys if not hasattr(k.related_model, "history_type")]


def _name_everywhere(old: str, new: str) -> None:
    """Where the new name stands already for the same, what named the old one goes."""
    for model, field in _naming():
        rows = model._default_manager.filter(**{f"{field}_id": old})
        try:
            with transaction.atomic():
                rows.update(**{f"{field}_id": new})
        except IntegrityError:
            for row in rows:
                try:
                    with transaction.atomic():
                        model._default_manager.filter(pk=row.pk).update(**{f"{field}_id": new})
                except IntegrityError:
                    row.delete()


def join_partners(user: Any, code: str, version: int | None, into: str) -> Partner:
    """Two rows that are one firm: what names the first names the second from now on, and the first goes.

    Raises MissingError, ProblemsError and Refused.
    """
    with writing(user, "partners"):
        row = held(Partner.objects.filter(code=code), version, code, f"Partner {code} is not known.")
        stays = Partner.objects.select_for_update().exclude(pk=row.pk).filter(code=into).first()
        if stays is None:
            raise MissingError(f"Partner {into} is not known.")
        there = MakerNumber.objects.filter(maker=stays).annotate(any_case=Upper("number"))
        known = set(there.values_list("part_id", "any_case"))
        for twice in MakerNumber.objects.filter(maker=row).annotate(any_case=Upper("number")):
            if (twice.part_id, twice.any_case) in known:
                twice.delete()
        _name_everywhere(row.name, stays.name)
        for role in ROLES:
            setattr(stays, role, getattr(stays, role) or getattr(row, role))
        for name in ("currency", "contact", "mail"):
            setattr(stays, name, getattr(stays, name) or getattr(row, name))
        stays.version += 1
        stays._change_reason = f"joined with {row.name} ({row.code})"
        stays.save()
        row.delete()
        return stays


def drop_partner(user: Any, code: str, version: int | None) -> None:
    """Take a partner away that nothing names. Raises ProblemsError where something does, MissingError and Refused."""
    with writing(user, "partners"):
        row = held(Partner.objects.filter(code=code), version, code, f"Partner {code} is not known.")
        for model, field in _naming():
            count = model._default_manager.filter(**{f"{field}_id": row.name}).count()
            if count:
                what = model._meta.verbose_name_plural if count > 1 else model._meta.verbose_name
                raise ProblemsError([Problem("", f"{row.name} is named by {count} {what}; it stays")])
        row.delete()
