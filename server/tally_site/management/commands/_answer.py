"""What the commands of the contract share: arguments of a basis, and errors as one clear line."""

import json
import sys
from argparse import ArgumentParser
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import date
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand
from django.db import DatabaseError
from django.utils.timezone import localdate
from loading.loaded import Loaded
from loading.reads import load_question, part_named
from tally_core.basics.errors import ProblemsError, TallyError
from tally_core.cost.answers import Basis, Question

__all__ = ["Answer", "Outside", "json_file", "told_together"]


class Outside(BaseCommand):
    """A command whose errors leave as one line on standard error and exit code 1."""

    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            self.answer(**options)
        except (TallyError, OSError) as error:
            sys.stderr.write(f"{error}\n")
            sys.exit(1)
        except DatabaseError as error:
            words = str(error).strip().split("\n")[0]
            sys.stderr.write(f"The database did not carry this out; nothing was saved: {words}\n")
            sys.exit(1)

    def answer(self, **options: Any) -> None:
        raise NotImplementedError


#: So many problems of a file are told, and so large may it be.
_TOLD, _MOST_BYTES = 20, 200_000_000


def json_file(file: Path) -> Any:
    """The content of a file of JSON, its numbers as text. Raises TallyError for what is none, OSError where it cannot be read."""
    if file.stat().st_size > _MOST_BYTES:
        raise TallyError(f"{file} is larger than it can be.")
    try:
        return json.loads(file.read_bytes().decode("utf-8-sig"), parse_float=str)
    except (ValueError, RecursionError):
        raise TallyError(f"{file} is not JSON.") from None


@contextmanager
def told_together(of: str = "") -> Iterator[None]:
    """Turn all that is wrong with a file into one line. Raises TallyError."""
    try:
        yield
    except ProblemsError as error:
        told = [str(problem) for problem in error.problems[:_TOLD]]
        more = len(error.problems) - len(told)
        raise TallyError(of + "; ".join(told) + (f"; and {more} more" if more else "")) from None


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise TallyError(f"--as-of takes a day like 2026-01-31, not {text}") from None


def _quantity(text: str) -> Decimal:
    try:
        quantity = Decimal(text)
    except InvalidOperation:
        quantity = Decimal(0)
    if not quantity.is_finite() or quantity <= 0 or quantity >= Decimal("1e12"):
        raise TallyError(f"--qty takes a number above 0, not {text}")
    return quantity


class Answer(Outside):
    """``PART [--qty Q] [--as-of DATE] [--option CODE]... [--drafts] --json``.

    ``make`` turns what was loaded and the question into the answer.
    """

    make: Callable[[Loaded, Question], dict]
    #: Whether the answer tells costs; without them less is read.
    costs = True

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("part")
        parser.add_argument("--qty")
        parser.add_argument("--as-of")
        parser.add_argument("--option", action="append", default=[])
        parser.add_argument("--drafts", action="store_true", help="drafts count before released sheets")
        parser.add_argument("--json", action="store_true", help="the whole answer as JSON")

    def answer(self, **given: Any) -> None:
        basis = Basis(
            as_of=_day(given["as_of"]) if given["as_of"] else localdate(),
            quantity=_quantity(given["qty"]) if given["qty"] else None,
            options=tuple(dict.fromkeys(given["option"])),
            drafts=given["drafts"],
        )
        answer = type(self).make(*load_question(part_named(given["part"]), basis, costs=type(self).costs))
        self.stdout.write(json.dumps(answer, ensure_ascii=False) if given["json"] else self.words(answer))

    def words(self, answer: dict) -> str:
        raise NotImplementedError
