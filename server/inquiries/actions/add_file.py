"""Take a file of an inquiry: keep it, have the worker read it, pair its lines and check them; or let it go."""

from collections.abc import Callable

from accounts.access import require
from django.conf import settings
from django.db import transaction
from django_tasks import task
from files.store import let_go, plain_name, store, too_large
from formats.cells import rows_of_json
from jobs.models import Job
from jobs.work import Tell, ask_for, carry_out
from readings.own_values import typed_fields
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.inquiries.line import FIELDS
from tally_core.lists.cells import text_of
from tally_core.lists.titles import OWN, ColumnMap
from verbs.contract import writing

from inquiries.actions.ask_data import ask_now
from inquiries.checking import check
from inquiries.column_maps import as_json
from inquiries.lines import counting, held_inquiry, laid, written
from inquiries.modelled import lacking, read_with_it
from inquiries.models import ColumnMapKept, Inquiry, InquiryFile
from inquiries.ours import bring_up
from inquiries.pairing import pair
from inquiries.reading import give_back, lay_down, take_cells

__all__ = ["KIND", "add_file", "drop_file", "map_columns", "pair_again", "read_again", "take_as_list"]

KIND, PAIR = "inquiry", "inquiry pairs"
#: Files of one inquiry; and of one person, files that wait for the worker.
MOST_FILES, MOST_WAITING = 60, 40
_STEPS = 3


def add_file(user, inquiry_id: int, name: str, content: bytes) -> InquiryFile:
    """Keep a file and hand it to the worker. Raises TallyError for one that is too large or one too many, and Refused."""
    require(user, "inquiries")
    if len(content) > settings.UPLOAD_LIMIT:
        raise TallyError(too_large(len(content)))
    with transaction.atomic():
        inquiry = held_inquiry(inquiry_id)
        if inquiry.files.count() >= MOST_FILES:
            raise TallyError(f"An inquiry has at most {MOST_FILES} files.")
        waiting = Job.objects.filter(kind=KIND, ended_at=None, asked_by=str(user)).count()
        if waiting >= MOST_WAITING:
            raise TallyError(f"{waiting} of your files wait to be read; bring in more when they are.")
        file = InquiryFile.objects.create(
            inquiry=inquiry, name=plain_name(name), file=store(content, "application/octet-stream"), added_by=str(user)
        )
        job = ask_for(KIND, file.pk, f"reading {file.name}", str(user))
    read_file.enqueue(file.pk, job.pk)
    return file


def _file(file_id: int, inquiry_id: int) -> InquiryFile:
    file = InquiryFile.objects.select_for_update(of=("self",)).filter(pk=file_id, inquiry=inquiry_id).first()
    if file is None:
        raise MissingError("This file is no longer there.")
    return file


def read_again(user, inquiry_id: int, file_id: int) -> None:
    """Have a file read that could not be, or whose worker died. Raises TallyError while one is at it, and Refused."""
    with writing(user, "inquiries"):
        held_inquiry(inquiry_id)
        file = _file(file_id, inquiry_id)
        job = ask_for(KIND, file.pk, f"reading {file.name}", str(user))
    read_file.enqueue(file.pk, job.pk)


def take_as_list(user, inquiry_id: int, file_id: int, as_list: bool) -> None:
    """Take the bill that a layout carries as a list, or no longer. Raises TallyError for a file without one, and Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        file = _file(file_id, inquiry_id)
        if not any("said" in t and t["name"] == "bill" for t in file.grid):
            raise TallyError(f"{file.name} carries no bill.")
        file.role = "list" if as_list else "layout"
        lay_down(inquiry, file)
        check(inquiry)
    pair_again(user, inquiry_id)


def drop_file(user, inquiry_id: int, file_id: int) -> None:
    """Take a file away with its lines and what was decided on them; a list that it replaced counts again. Raises Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        file = _file(file_id, inquiry_id)
        kept = file.file_id
        give_back(file)
        # What was read with it is read without it; what was a piece of it stands for itself.
        anew = [f for f in inquiry.files.exclude(pk=file.pk) if file.name in read_with_it(f) or f.name in read_with_it(file)]
        file.delete()
        let_go([kept])
        laid(inquiry)
        check(inquiry)
        # One of them is enough: whoever reads it reads the others, too.
        jobs = [(f.pk, ask_for(KIND, f.pk, f"reading {f.name}", str(user)).pk) for f in anew[:1]]
    for file_pk, job in jobs:
        read_file.enqueue(file_pk, job)


def map_columns(
    user, inquiry_id: int, file_id: int, sheet: str, header: int, columns: dict[str, list[int]], commas: dict[str, bool]
) -> None:
    """Say how a list is read; it is read so at once, and so are later lists of this sender with the same titles.

    Raises ProblemsError for a map that makes no sense, and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        file = _file(file_id, inquiry_id)
        table = next((t for t in file.grid if "rows" in t and (t["name"] == sheet or (len(file.grid) == 1 and not sheet))), None)
        if table is None:
            raise MissingError("The file has no such sheet.")
        rows, own = table["rows"], typed_fields()
        wide = max((len(r) for r in rows), default=0)
        problems = [
            Problem("columns", f"{name[:40]} cannot stand in column {at[:1]}")
            for name, at in columns.items()
            if not (name in _MAPPED or (name.startswith(OWN) and name.removeprefix(OWN) in own))
            or len(at) != 2
            or not 0 <= at[0] < wide
            or at[1] not in (0, 1)
        ]
        if not -1 <= header < len(rows):
            problems.append(Problem("header", "the titles are not a row of this list"))
        if not columns.keys() & {"part", "maker_number", "description"}:
            problems.append(Problem("columns", "say which column holds the number, or the description"))
        if "level" in columns and "parent" in columns:
            problems.append(Problem("columns", "levels or parents place a row, not both"))
        if problems:
            raise ProblemsError(problems)
        titles = tuple(text_of(c) for c in rows_of_json([rows[header]])[0]) if header >= 0 else ()
        said = ColumnMap(
            header,
            {n: (at[0], at[1]) for n, at in columns.items()},
            {n: bool(c) for n, c in commas.items() if n in ("quantity", "unit_cost", "scrap_percent") or n.startswith(OWN)},
            titles,
        )
        file.column_map = (file.column_map or {}) | {sheet: as_json(said) | {"from": "by hand"}}
        if said.titles:
            kept = ColumnMapKept.objects.filter(customer=inquiry.customer, shape=said.shape).first()
            kept = kept or ColumnMapKept(customer=inquiry.customer, shape=said.shape)
            kept.map, kept.changed_by = as_json(said), str(user)
            kept.save()
        lay_down(inquiry, file)
        check(inquiry)
    pair_again(user, inquiry_id)


_MAPPED = {*FIELDS, "reference_designators", "fitted"} - {"designators"}


@task()
def read_file(file_id: int, job_id: int) -> None:
    """Read a kept file; what cannot be read is said on the job."""

    def work(tell: Tell) -> None:
        file = InquiryFile.objects.get(pk=file_id)
        tell("taking its cells out of the file", 1, _STEPS)
        take_cells(file)
        tell("reading its lines", 2, _STEPS)
        _lay(file)
        # A model that names this one, or one that this one names and that came while it was read.
        for other in lacking(file.inquiry_id):
            tell(f"reading {other.name} with what it names", 2, _STEPS)
            take_cells(other)
            _lay(other)
        _pair_open(file.inquiry_id, lambda words: tell(words, 3, _STEPS))
        ask_now(file.inquiry_id, file.added_by)

    carry_out(job_id, work)


def _lay(file: InquiryFile) -> None:
    with transaction.atomic():
        lay_down(held_inquiry(file.inquiry_id), file)


def _pair_open(inquiry_id: int, tell: Callable[[str], None]) -> None:
    bring_up(lambda done, of: tell(f"reading what our parts say, {done:,} of {of:,}"))
    lines = list(counting(Inquiry.objects.get(pk=inquiry_id)))
    tell(f"holding {len(lines):,} lines against our parts")
    with transaction.atomic():
        inquiry = held_inquiry(inquiry_id)
        # What somebody decides meanwhile stays: only proposals are written.
        written(inquiry, pair(inquiry, lines), ["proposals"])
        check(inquiry)


def pair_again(user, inquiry_id: int) -> None:
    """Have the worker hold all lines against our parts as they are now. Raises TallyError while it does, and Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        job = ask_for(PAIR, inquiry.pk, f"pairing {inquiry.number}", str(user))
    pair_lines.enqueue(inquiry.pk, job.pk)


@task()
def pair_lines(inquiry_id: int, job_id: int) -> None:
    """Hold all lines against our parts."""

    def work(tell: Tell) -> None:
        _pair_open(inquiry_id, tell)

    carry_out(job_id, work)
