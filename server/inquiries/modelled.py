"""Models among the files of an inquiry: once its lines are parts, those get their shapes from them."""

from typing import Any

from geometry.actions.take_model import take_kept_model

from inquiries.models import Inquiry

__all__ = ["ASSEMBLY", "take_models"]

#: What the list that is read off a model is called among the tables of its file.
ASSEMBLY = "assembly"


def take_models(user: Any, inquiry: Inquiry) -> None:
    """Have each model that counts read for the parts its lines became, within the caller's transaction."""
    for file in inquiry.files.filter(role="list", replaced_by=None).select_related("file"):
        if not any(t["name"] == ASSEMBLY and "said" in t for t in file.grid):
            continue
        lines = list(file.lines.exclude(state="out").exclude(part=None).select_related("part").order_by("position"))
        tops = [line.part for line in lines if line.part and not line.said.get("parent")]
        if tops:
            pairs = {line.said["part"]: line.part.number for line in lines if line.part}
            take_kept_model(user, tops[0], file.name, file.file, pairs)
