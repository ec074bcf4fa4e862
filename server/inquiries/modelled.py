"""Models among the files of an inquiry: several that name one another are one, and once its lines are parts, those get their shapes from it."""

from pathlib import PurePath
from typing import Any

from files.store import opened
from formats.step import is_step, list_of_assembly, read_step
from geometry.actions.take_model import take_kept_model

from inquiries.models import Inquiry, InquiryFile

__all__ = ["ASSEMBLY", "lacking", "read_with_it", "take_assembly", "take_models"]

#: What the list that is read off a model is called among the tables of its file.
ASSEMBLY = "assembly"
_ENDINGS = (".stp", ".step", ".p21")


def take_assembly(file: InquiryFile, content: bytes) -> None:
    """Read a model, together with those of the inquiry that it names; saves nothing.

    One that another names is a piece of that other. Raises TallyError for what cannot be read.
    """
    all_of_them = {**_contents(file.inquiry_id), file.name: content}
    named = _named(all_of_them)
    if _is_piece(file.name, named):
        file.role = "piece"
        return
    pieces = sorted(named[file.name])
    said = read_step([(file.name, content), *((name, all_of_them[name]) for name in pieces)])
    file.role, file.troubles = "list", said["problems"]
    file.grid = [{"name": ASSEMBLY, "said": list_of_assembly(said), "with": pieces}]


def read_with_it(file: InquiryFile) -> list[str]:
    """Names of the files that a model was read with."""
    return next((t["with"] for t in file.grid if t["name"] == ASSEMBLY and "said" in t), [])


def lacking(inquiry_id: int) -> list[InquiryFile]:
    """Models that were read without one that they name, since it came later, or with one that is gone; and those that are pieces by now,
    or no longer.
    """
    named = _named(_contents(inquiry_id))
    files = [f for f in _newest(inquiry_id).values() if f.name in named and f.role in ("list", "piece")]
    return [
        f
        for f in files
        if (f.role == "piece") != _is_piece(f.name, named) or (f.role == "list" and read_with_it(f) != sorted(named[f.name]))
    ]


def take_models(user: Any, inquiry: Inquiry) -> None:
    """Have each model that counts read for the parts its lines became, within the caller's transaction."""
    newest = _newest(inquiry.pk)
    for file in newest.values():
        if file.replaced_by_id or not any(t["name"] == ASSEMBLY and "said" in t for t in file.grid):
            continue
        lines = list(file.lines.exclude(state="out").exclude(part=None).select_related("part").order_by("position"))
        tops = [line.part for line in lines if line.part and not line.said.get("parent")]
        if tops:
            pairs = {line.said["part"]: line.part.number for line in lines if line.part}
            beside = {name: newest[name].file for name in read_with_it(file) if name in newest}
            take_kept_model(user, tops[0], file.name, file.file, pairs, beside)


def _newest(inquiry_id: int) -> dict[str, InquiryFile]:
    """What is a model by its name; of two with one name the later."""
    files = InquiryFile.objects.filter(inquiry=inquiry_id).select_related("file").order_by("pk")
    return {f.name: f for f in files if PurePath(f.name).suffix.lower() in _ENDINGS}


def _contents(inquiry_id: int) -> dict[str, bytes]:
    found = {}
    for file in _newest(inquiry_id).values():
        with opened(file.file, file.name) as held:
            found[file.name] = held.read()
    return {name: content for name, content in found.items() if is_step(content)}


def _named(contents: dict[str, bytes]) -> dict[str, set[str]]:
    """For each file those that it names, and those that they name."""
    directly = {name: {other for other in contents if other != name and other.encode() in text} for name, text in contents.items()}
    found: dict[str, set[str]] = {}
    for name in contents:
        reached, at = {name}, [name]
        while at:
            more = directly[at.pop()] - reached
            reached |= more
            at += more
        found[name] = reached - {name}
    return found


def _is_piece(name: str, named: dict[str, set[str]]) -> bool:
    """Whether another names a file; of two that name each other neither is a piece."""
    return any(name in theirs and other not in named[name] for other, theirs in named.items())
