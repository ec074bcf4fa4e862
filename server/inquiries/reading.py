"""What a file of an inquiry says, laid down as its lines and places; a later revision of a list is read as a change."""

from typing import Any

from django.db import models
from files.store import opened
from formats.apart import read_layout, read_tables
from formats.cells import rows_as_json, rows_of_json
from formats.layouts import is_layout
from formats.neutral import TableSays, read_table
from formats.step import is_step
from readings.own_values import typed_fields
from tally_core.basics.errors import TallyError
from tally_core.inquiries.join import own_top
from tally_core.inquiries.layout import is_later_layout, relaid, stays
from tally_core.inquiries.line import in_short
from tally_core.inquiries.revise import revise
from tally_core.lists.title_block import said_to_be_for

from inquiries.column_maps import as_json, of_json, remembered_map
from inquiries.lines import core_line, core_places, counting, laid, thing_of
from inquiries.modelled import take_assembly
from inquiries.models import Build, Decision, Inquiry, InquiryFile, ListLine, Origin, Question

__all__ = ["MOST_LINES", "give_back", "lay_down", "take_cells"]

MOST_LINES = 50_000
#: What a row of a neutral reading says about itself; all else is what the sender wrote.
_PLACE = ("row", "sheet", "file")


def take_cells(file: InquiryFile) -> None:
    """Take the cells, or the components, out of a kept file; saves nothing.

    A file that is neither table nor layout is kept as it is. Raises TallyError for one that says to be a table and cannot be read.
    """
    with opened(file.file, file.name) as held:
        content = held.read()
    file.grid, file.places, file.troubles = [], [], []
    if is_layout(content):
        said = read_layout(file.name, content)
        file.role, file.places, file.board = "layout", said["places"], said["board"]
        file.troubles = [{"row": 0, "message": p["message"], "field": ""} for p in said["problems"]]
        # Its bill stands by as a list, should the sender have sent no other.
        file.grid = [{"name": "bill", "said": said["rows"]}] if said["rows"] else []
        return
    if is_step(content):
        take_assembly(file, content)
        return
    if not file.name.lower().endswith((".csv", ".tsv", ".txt", ".xlsx", ".xlsm", ".ods")):
        file.role = "other"
        return
    try:
        tables = read_tables(file.name, content)
    except TallyError:
        raise
    except Exception as error:
        # Whatever a file from outside sets off, the person who brought it is told.
        raise TallyError(f"{file.name} could not be read ({type(error).__name__}).") from None
    file.grid = [{"name": t.name, "rows": rows_as_json(t.rows)} for t in tables if t.rows]
    file.role = "list"


def lay_down(inquiry: Inquiry, file: InquiryFile) -> list[ListLine]:
    """Make the lines of a file anew from its cells, by the map it has, the one remembered for its sender, or what it says itself.

    A list for the same thing that another file of the inquiry was for is its later revision: what was decided on lines that say the
    same still holds. Saves file and lines within the caller's transaction, who holds the inquiry. Raises TallyError for more lines
    than an inquiry takes.
    """
    earlier = list(ListLine.objects.filter(file=file))
    lines = _lines_of(inquiry, file) if file.role == "list" else []
    if file.role == "list" and not lines and file.places:
        file.role = "layout"
    others = counting(inquiry).exclude(file=file).count()
    if others + len(lines) > MOST_LINES:
        raise TallyError(f"An inquiry has at most {MOST_LINES:,} lines.")
    file.save()
    for line in lines:
        line.thing = thing_of(line)
    ListLine.objects.bulk_create(lines, batch_size=2000)
    before = _before(inquiry, file, lines)
    if before is not None:
        before.replaced_by = file
        before.save(update_fields=["replaced_by"])
        gone = _carry_over(list(before.lines.all()), lines, as_change=True)
        file.taken = [{"row": x.row, "name": core_line(x).name, "description": core_line(x).description} for x in gone]
        file.save(update_fields=["taken"])
    elif file.role == "layout":
        _lay_over(inquiry, file)
    if before is None and earlier:
        _carry_over(earlier, lines, as_change=False)
    ListLine.objects.filter(pk__in=[x.pk for x in earlier]).delete()
    laid(inquiry)
    return lines


def _lines_of(inquiry: Inquiry, file: InquiryFile) -> list[ListLine]:
    lines: list[ListLine] = []
    maps: dict[str, Any] = {}
    file.troubles = []
    own = typed_fields()
    for table in file.grid:
        name = str(table["name"] or "") if len(file.grid) > 1 else ""
        if "said" in table:
            said, header, rows = TableSays(rows=table["said"]), -1, []
        else:
            rows = rows_of_json(table["rows"])
            said, map_from = _read(inquiry, file, name, rows, own)
            if said.places:
                file.places = [*file.places, *said.places]
            if said.map is not None and said.rows:
                maps[name] = as_json(said.map) | {"from": map_from}
            header = said.map.header if said.map is not None else -1
        file.troubles += [{"row": t.row, "message": t.message, "field": t.field} for t in said.troubles if t.row == 0]
        lines += _of_table(inquiry, file, name, said, rows, header, len(lines))
    file.column_map = maps or None
    if not lines and not file.places:
        raise TallyError(f"{file.name} holds neither a list with part numbers nor places of components.")
    return lines


def _read(inquiry: Inquiry, file: InquiryFile, name: str, rows: list[list[Any]], own: dict[str, bool]) -> tuple[TableSays, str]:
    by_hand = (file.column_map or {}).get(name)
    if by_hand is not None and by_hand.get("from") == "by hand":
        return read_table(rows, of_json(by_hand), own), "by hand"
    kept = remembered_map(inquiry.customer, rows)
    return (read_table(rows, kept, own), "remembered") if kept is not None else (read_table(rows, None, own), "found")


def _of_table(
    inquiry: Inquiry, file: InquiryFile, name: str, said: TableSays, rows: list[list[Any]], header: int, begin: int
) -> list[ListLine]:
    troubles: dict[int, list[dict[str, str]]] = {}
    for t in said.troubles:
        # Designators against quantities are found anew whenever something is mended.
        if t.row and t.field and t.field != "designators":
            troubles.setdefault(t.row, []).append({"field": t.field, "message": t.message})
    lines = [
        ListLine(
            inquiry=inquiry,
            file=file,
            sheet=name,
            row=row["row"],
            position=begin + at,
            said={n: v for n, v in row.items() if n not in _PLACE} | ({"troubles": troubles[row["row"]]} if row["row"] in troubles else {}),
        )
        for at, row in enumerate(said.rows, 1)
    ]
    if not lines:
        return []
    top = own_top([core_line(x) for x in lines])
    if top is not None:
        # How many of itself a list is for says nothing.
        of_top = next(x.said for x in lines if x.row == top.row)
        if "troubles" in of_top:
            of_top["troubles"] = [t for t in of_top["troubles"] if t["field"] != "quantity"]
    else:
        number, described = said_to_be_for(rows, header, file.name)
        head = {"part": number, "level": 0} | ({"description": described} if described else {})
        lines.insert(0, ListLine(inquiry=inquiry, file=file, sheet=name, row=0, position=begin, said=head))
    return lines


# -- a later revision


def _head(lines: list[ListLine]) -> set[str]:
    """What lists are for: the first line of each."""
    first: dict[str, ListLine] = {}
    for line in lines:
        first.setdefault(line.sheet, line)
    return {core_line(x).thing for x in first.values()}


def _before(inquiry: Inquiry, file: InquiryFile, lines: list[ListLine]) -> InquiryFile | None:
    """The list that this one takes the place of: the newest that is for the same."""
    if not lines:
        return None
    heads = _head(lines)
    others = InquiryFile.objects.filter(inquiry=inquiry, role="list", replaced_by=None, pk__lt=file.pk)
    for other in others.order_by("-pk"):
        if _head(list(other.lines.all())) == heads:
            return other
    return None


def _lay_over(inquiry: Inquiry, file: InquiryFile) -> None:
    """A later layout of a board takes the place of the earlier one of its kind, and says what is another; of any other it says which
    components both have, each elsewhere: then they show two boards.
    """
    after = core_places(file.places)
    others = inquiry.files.filter(role="layout", replaced_by=None, pk__lt=file.pk).order_by("-pk")
    found = {other: core_places(other.places) for other in others}
    earlier = next((o for o, was in found.items() if bool(o.board) == bool(file.board) and is_later_layout(was, after)), None)
    words = []
    if earlier is not None:
        earlier.replaced_by = file
        earlier.save(update_fields=["replaced_by"])
        words.append(f"against {earlier.name}: {'; '.join(relaid(found.pop(earlier), after)) or 'no place is another'}")
    for other, before in found.items():
        twice = [d for d, was in before.items() if d in after and not stays(was, after[d])]
        if twice:
            words.append(f"{other.name} has {in_short(twice)[:200]} elsewhere: the two are held for two boards")
    said = [{"row": 0, "message": text, "field": ""} for text in words]
    file.troubles = [*(t for t in file.troubles if t not in said), *said]
    file.save(update_fields=["troubles"])


#: What says which part a line is of; a pair holds as long as none of it is another.
_TELLS = ("part", "description", "maker", "maker_number")


def _carry_over(before: list[ListLine], after: list[ListLine], as_change: bool) -> list[ListLine]:
    """Take over onto later lines what was decided on earlier ones and still holds; say what is another now.

    Answers the earlier lines that are gone.
    """
    revised = revise([_as_said(x) for x in before], [_as_said(x) for x in after])
    was = {x.pk: x for x in before}
    for line in after:
        earlier = was.get(revised.same.get(line.pk, 0))
        if earlier is None:
            line.changed = {"": "added"} if as_change else {}
            continue
        changed = revised.changed.get(line.pk, {})
        if as_change:
            # The row of a list moves with every line above it, and says nothing.
            line.changed = {name: old for name, (old, _) in changed.items()}
        line.mended = {n: v for n, v in earlier.mended.items() if n not in changed}
        line.thing = thing_of(line)
        line.waived = {c: w for c, w in earlier.waived.items() if not changed}
        line.refused = earlier.refused
        if not any(n in changed for n in _TELLS) or earlier.state == "out":
            line.state, line.part, line.road = earlier.state, earlier.part, earlier.road
            line.decided_by, line.decided_at = earlier.decided_by, earlier.decided_at
    ListLine.objects.bulk_update(
        after, ["thing", "changed", "mended", "waived", "refused", "state", "part", "road", "decided_by", "decided_at"], batch_size=1000
    )
    _follow({old: new for new, old in revised.same.items()})
    return [was[key] for key in revised.taken]


def give_back(file: InquiryFile) -> None:
    """Before a later revision goes: what was decided, asked and wanted of its lines goes back to those of the list it replaced."""
    for earlier in file.replaces.all():
        before = list(earlier.lines.all())
        revised = revise([_as_said(x) for x in file.lines.all()], [_as_said(x) for x in before])
        _follow({later: old for old, later in revised.same.items()})


def _follow(later: dict[int, int]) -> None:
    """What was decided, asked and wanted of a line goes with it: key of the earlier line → key of the later."""
    for model in (Decision, Question, Build, Origin):
        _move(model, later)


def _move(model: type[models.Model], later: dict[int, int]) -> None:
    for begin in range(0, len(later), 500):
        some = list(later)[begin : begin + 500]
        where = models.Case(*(models.When(line=old, then=models.Value(later[old])) for old in some))
        model._default_manager.filter(line__in=some).update(line=where)


def _as_said(line: ListLine) -> Any:
    plain = ListLine(pk=line.pk, file_id=0, sheet=line.sheet, row=line.row, said=line.said)
    return core_line(plain)
