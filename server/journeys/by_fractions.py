"""What stands in the database, reckoned in exact fractions by the core's second opinion: the figures journeys look for."""

import sys
from datetime import date
from fractions import Fraction
from pathlib import Path
from typing import Any

from readings.export_bundle import export_bundle

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "core"))
from tests.exact import Exact

__all__ = ["by_fractions"]


def by_fractions(top: str, options: list[str] | None = None, quantity: int | None = None) -> Exact:
    """A product on the released sheets of alternate A, today."""
    document = _said(export_bundle(None))
    document["build_sheets"] = [s for s in document["build_sheets"] if s["status"] == "released" and s.get("alternate", "A") == "A"]
    job = None if quantity is None else Fraction(quantity)
    return Exact(document, top, date.today().isoformat(), options or [], job)


def _said(value: Any) -> Any:
    """Only what is said: an open end counts as left out."""
    if isinstance(value, dict):
        return {k: _said(v) for k, v in value.items() if v is not None}
    return [_said(v) for v in value] if isinstance(value, list) else value
