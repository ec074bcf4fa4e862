"""The change sheet as a workbook and as PDF: every change on both sides, before it is made and as it was."""

from typing import Any

from formats.document import Table, pdf
from formats.flat import Column, list_workbook

from handover.models import Handover

__all__ = ["change_sheet_pdf", "change_sheet_workbook", "shown"]

_SIDE = {"ours": "here", "theirs": "there"}
_TITLES = ["Written", "Part", "What", "How", "Field", "Before", "After", "Why by hand"]


def shown(value: Any) -> str:
    """A value as a person reads it."""
    if value in (None, ""):
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return ", ".join(map(str, value)) if isinstance(value, list) else str(value)


def _rows(sheet: dict[str, Any]) -> list[list[str]]:
    rows = []
    for c in sheet["changes"]:
        part = f"{c['part']}, there {c['known_as']}" if c.get("known_as") else c["part"]
        head = [_SIDE[c["side"]], part, c["words"], {"add": "added", "remove": "taken away"}.get(c["verb"], "changed")]
        for v in c["values"] or [{"word": "", "before": None, "after": None}]:
            rows.append([*head, v["word"], shown(v["before"]), shown(v["after"]), c["by_hand"]])
    return rows


def change_sheet_workbook(handover: Handover, sheet: dict[str, Any]) -> bytes:
    """A row for each field that is written."""
    rows: list[list[Any]] = [list(row) for row in _rows(sheet)]
    rows += [["left as it is", x["part"], x["words"], x["verdict"], "", "", "", ""] for x in sheet["left"]]
    return list_workbook(f"{handover.number} {handover.top.number}", [Column(t) for t in _TITLES], rows)


def change_sheet_pdf(handover: Handover, sheet: dict[str, Any]) -> bytes:
    """What is written there, what is written here, and what is left as it is."""
    kinds = ["", "pn", "", "", "", "", "", ""]
    tables = []
    for side, title in (("there", f"Written in {handover.record}"), ("here", "Written here, in drafts where it is of a sheet")):
        rows = [row[1:] for row in _rows(sheet) if row[0] == side]
        if rows:
            tables.append(Table(title, list(zip(_TITLES[1:], kinds[1:], strict=True)), rows))
    if sheet["left"]:
        left = [[x["part"], x["words"], x["verdict"]] for x in sheet["left"]]
        tables.append(Table("Left as it is", [("Part", "pn"), ("What", ""), ("Verdict", "")], left))
    state = {"work": "to be read before it is written", "done": f"written by {handover.ended_by}"}.get(handover.state, handover.state)
    day = f"{handover.ended_at or handover.read_at:%Y-%m-%d %H:%M}"
    facts = [f"{handover.top.number} {handover.top.description}".strip(), f"{handover.record}; {state}, {day}"]
    if sheet.get("sheets"):
        facts.insert(1, f"sheets of {', '.join(sheet['sheets'])}")
    return pdf(f"Change sheet {handover.number}", facts, tables)
