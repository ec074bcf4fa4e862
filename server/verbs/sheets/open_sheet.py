"""Open a draft: the first sheet of a part, or the next revision of a released one."""

import uuid

from accounts.access import require
from definition.models.sheets import BuildSheet, Line, Operation, OperationFile
from django.db import transaction
from loading.reads import part_named
from simple_history.utils import bulk_create_with_history
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.basics.kinds import PART_KIND
from tally_core.structure.effectivity import revision_order

__all__ = ["next_revision", "open_sheet"]


def next_revision(revision: str) -> str:
    """What follows a revision: A → B, Z → AA, 9 → 10.

    >>> next_revision("A"), next_revision("AZ"), next_revision("9"), next_revision("Z")
    ('B', 'BA', '10', 'AA')
    """
    if revision.isdecimal():
        return str(int(revision) + 1)
    head, last = revision[:-1], revision[-1]
    if last in "Zz":
        return (next_revision(head) if head else "A") + "A"
    return head + chr(ord(last) + 1)


def open_sheet(user, number: str, alternate: str = "A", reference: str = "", copy_of: int | None = None, reason: str = "") -> BuildSheet:
    """The open draft of a part and alternate, made if there is none: a copy of the newest revision, or empty.

    Args:
        reference: what a new alternate is for, in words.
        copy_of: the sheet that a new alternate starts from.
        reason: why the draft is opened, for its history.

    Raises TallyError for a part that has no sheets by its kind, and Refused.
    """
    require(user, "sheets")
    if not alternate.strip() or alternate != alternate.strip() or len(alternate) > 20:
        raise ProblemsError([Problem("alternate", "an alternate is 1 to 20 characters without blanks around them")])
    part = part_named(number)
    if not PART_KIND[part.kind].takes_sheet:
        raise TallyError(f"{number} is a {part.kind} part; only a made part or a phantom has a build sheet")
    with transaction.atomic():
        # The part's row stands for all its sheets: two people opening at once make one draft.
        type(part).objects.select_for_update().get(pk=part.pk)
        held = sorted(part.sheets.filter(alternate=alternate), key=lambda s: revision_order(s.revision))
        drafts = [s for s in held if s.status == "draft"]
        if drafts:
            return drafts[-1]
        source = held[-1] if held else part.sheets.filter(pk=copy_of or 0).first()
        draft = BuildSheet(
            part=part,
            alternate=alternate,
            revision=next_revision(source.revision) if held and source else "A",
            batch=source.batch if source else 1,
            reference=reference.strip() or (source.reference if held and source else ""),
            changed_by=str(user),
            copied_from=source.pk if source else None,
        )
        draft._change_reason = reason.strip()
        draft.save()
        if source is not None:
            _copy(source, draft, f"copied from {source.alternate}, revision {source.revision}", user)
        return draft


def _copy(source: BuildSheet, draft: BuildSheet, reason: str, user) -> None:
    """Lines and operations stay what they are over the revisions of an alternate; another alternate has its own."""
    goes_on = source.alternate == draft.alternate
    operations, lines = list(source.operations.order_by("resource")), list(source.lines.all())
    shown = list(OperationFile.objects.filter(operation__sheet=source))
    copies = {row.id: row for row in operations}
    for row in operations:
        row.copied_from, row.id, row.sheet = row.id, uuid.uuid4(), draft
        row.lineage = row.lineage if goes_on else uuid.uuid4()
    for row in operations:
        row.beside = copies[row.beside_id] if row.beside_id else None
    for line in lines:
        line.copied_from, line.id, line.sheet = line.id, uuid.uuid4(), draft
        line.lineage = line.lineage if goes_on else uuid.uuid4()
        line.operation = copies[line.operation_id] if line.operation_id else None
    bulk_create_with_history(operations, Operation, default_user=user, default_change_reason=reason)
    for file in shown:
        file.pk, file.operation = None, copies[file.operation_id]
    bulk_create_with_history(lines, Line, default_user=user, default_change_reason=reason)
    bulk_create_with_history(shown, OperationFile, default_user=user, default_change_reason=reason)
