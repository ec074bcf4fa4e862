"""Findings as plain values, each with the waiver that holds for it."""

from typing import Any

from django.utils.timezone import localdate
from geometry.counted import survey_with_models
from readings.survey import below, find

from findings.models import Waiver

__all__ = ["found_beneath", "plain_findings"]


def found_beneath(part_id: int) -> list[dict[str, Any]]:
    """What is found today on a part and all beneath it. A fixed number of queries."""
    keys = below(part_id)
    own = set(keys)
    return [f for f in find(survey_with_models(keys), localdate()) if f["part_id"] in own]


def plain_findings(found: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Findings as plain values with the waiver of each, those that stop first."""
    waived = {w.key: w for w in Waiver.objects.filter(key__in=[f["key"] for f in found])}
    out = []
    for f in sorted(found, key=lambda f: f["severity"] != "stops"):
        held = waived.get(f["key"])
        out.append(
            {name: f[name] for name in ("code", "severity", "part", "revision", "item", "message", "mend", "key")}
            | {
                "sheet": f["sheet_id"],
                "line": str(f["line"]) if f["line"] else None,
                "waived": {"reason": held.reason, "by": held.waived_by, "at": held.waived_at.isoformat()} if held else None,
            }
        )
    return out
