"""Assemblies by STEP (ISO 10303-21; AP203, AP214, AP242): the tree with its counts, and each part with its size and volume (rule M1).

What a file sets off in the geometry kernel ends with a process of its own, under limits of memory and time; ``python -m formats.step ASKED FILE...``
is that process, and prints what it read as JSON; ASKED is JSON, too: whether with drawings, and the sections wanted.
"""

import base64
import contextlib
import ctypes
import json
import os
import resource
import signal
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from tally_core.basics.errors import TallyError

from formats.step_lines import line_drawing, views_of
from formats.step_mesh import look_of, transform_of
from formats.step_section import section_of
from formats.step_sheet import sheet_metal
from formats.step_sizes import sizes_of, solid_of
from formats.step_stated import not_as_stated

__all__ = ["described_by_size", "is_step", "list_of_assembly", "mains_of", "read_step", "size_in_short"]

#: What one assembly may take: bytes of memory, seconds of work, seconds by the clock; and how many places are followed.
MEMORY, WORK, CLOCK = 6 * 1024**3, 240, 300
MOST_PLACES, MOST_KINDS = 2_000_000, 20_000
#: Names that are given to pieces of a part (its solid beside its axes) that are no products of their own in the file.
_BODIES = ("SOLID", "COMPOUND", "COMPSOLID", "SHELL", "FACE", "WIRE", "EDGE", "VERTEX")
_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG, linux/prctl.h
_SERVER = Path(__file__).resolve().parent.parent


def is_step(content: bytes) -> bool:
    """Whether a file says of itself that it is one; only its beginning is looked at."""
    return content[:400].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"ISO-10303-21;")


def read_step(files: list[tuple[str, bytes]], drawn: bool = False, sections: Sequence[tuple[str, float]] = ()) -> dict[str, Any]:
    """``parts``, ``tree`` and ``problems`` of some files that may refer to one another by their names, as ``./tally read`` answers.

    ``drawn``: with a ``drawing`` of each part (``formats.step_lines``), its ``colour`` and whether it is ``sheet`` metal (``formats.step_sheet``), and ``assemblies`` with theirs and their ``views``; ``looks``: each file as glTF, in base 64; ``as_stated``: of how many shapes each file states figures that were compared.

    ``sections``: with ``sections``, the top cut as ``formats.step_section`` does, one for each side and depth; without ``drawn`` these alone.

    Raises TallyError, in the user's words, for what cannot be read, or takes more than an assembly may.
    """
    names = ", ".join(name for name, _ in files)
    with tempfile.TemporaryDirectory(prefix="tally-step-") as folder:
        for name, content in files:
            (Path(folder) / Path(name).name).write_bytes(content)
        process = subprocess.Popen(
            [sys.executable, "-m", "formats.step", json.dumps([drawn, *sections]), *(Path(name).name for name, _ in files)],
            cwd=folder,
            # Neither the database's address nor a key is handed on.
            env={k: v for k, v in os.environ.items() if k in ("PATH", "LANG", "LC_ALL", "TMPDIR")} | {"PYTHONPATH": _paths()},
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        try:
            said, _ = process.communicate(timeout=CLOCK)
        except subprocess.TimeoutExpired:
            process.kill()
            process.communicate()
            said = b""
    try:
        # The kernel may have words of its own; the answer is the last line.
        answer = json.loads(said.rsplit(b"\n", 2)[-2]) if b"\n" in said else {}
    except ValueError:
        answer = {}
    if "refused" in answer:
        raise TallyError(answer["refused"])
    if "read" not in answer:
        raise TallyError(f"{names} was not read: it is damaged, or takes more memory or time than an assembly may.")
    return answer["read"]


def mains_of(files: list[tuple[str, bytes]]) -> list[str]:
    """Of several files those that none of the others names: the others are read with them."""
    found = [name for name, _ in files if not any(name.encode() in text for other, text in files if other != name)]
    return found or [files[0][0]]


def list_of_assembly(said: dict[str, Any]) -> list[dict[str, Any]]:
    """The rows of an assembly as those of a list that names parents, in the words of a neutral reading; sizes stand in the description."""
    sizes = {p["name"]: described_by_size(p["smallest_box_mm"]) for p in said["parts"] if "smallest_box_mm" in p}
    return [
        {
            "row": row,
            "part": entry["name"] or "without a name",
            "quantity": str(entry["count"]),
            "unit": "ea",
            **({"parent": entry["parent"]} if entry["parent"] else {}),
            **({"description": sizes[entry["name"]]} if entry["name"] in sizes else {}),
        }
        for row, entry in enumerate(said["tree"], 1)
    ]


def described_by_size(box_mm: list[str]) -> str:
    """What stands as the description of a part of which a model tells nothing but its size."""
    return " × ".join(map(size_in_short, box_mm)) + " mm"


def size_in_short(size: str) -> str:
    """A length in millimetres as people read it: to a tenth."""
    return f"{float(size):.1f}".rstrip("0").rstrip(".")


def _paths() -> str:
    return os.pathsep.join(dict.fromkeys([str(_SERVER), *(str(Path(p).resolve()) for p in sys.path if p)]))


# -- in the process that reads


def _limited() -> None:
    # Who waits ends with the reader, even when that is killed.
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    for limit, most in ((resource.RLIMIT_AS, MEMORY), (resource.RLIMIT_CPU, WORK), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_FSIZE, 0)):
        resource.setrlimit(limit, (most, most))


class _Assembly:
    """What one file says: each distinct part once, however often it stands."""

    def __init__(self) -> None:
        #: Entry of a label → its name.
        self.names: dict[str, str] = {}
        #: Entry → entries directly under it, with how often.
        self.under: dict[str, Counter[str]] = {}
        self.shapes: dict[str, Any] = {}
        #: Assemblies whole, with everything in its place; and what stands directly in each: what it is, and that it stands there.
        self.wholes: dict[str, Any] = {}
        self.components: dict[str, list[tuple[Any, Any]]] = {}
        self._document: Any = None  # in which all labels stand
        self.colours: dict[str, str] = {}
        #: Entries of which the file states figures → in words what of them is not so.
        self.stated: dict[str, str] = {}
        self.tops: list[str] = []

    def read(self, file: str) -> None:
        """Raises TallyError for a file that holds no shape."""
        from OCP.IFSelect import IFSelect_RetDone
        from OCP.STEPCAFControl import STEPCAFControl_Reader
        from OCP.TCollection import TCollection_ExtendedString
        from OCP.TDF import TDF_LabelSequence
        from OCP.TDocStd import TDocStd_Document
        from OCP.XCAFDoc import XCAFDoc_DocumentTool

        self._document = document = TDocStd_Document(TCollection_ExtendedString("tally"))
        reader = STEPCAFControl_Reader()
        reader.SetNameMode(True)
        reader.SetColorMode(True)
        reader.SetPropsMode(True)
        if reader.ReadFile(file) != IFSelect_RetDone:
            raise TallyError(f"{file} is no STEP file, or it breaks off.")
        if not reader.Transfer(document):
            raise TallyError(f"{file} holds no part that can be read.")
        tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        labels = TDF_LabelSequence()
        tool.GetFreeShapes(labels)
        self.tops = [self._take(labels.Value(i)) for i in range(1, labels.Length() + 1)]
        if not self.tops:
            raise TallyError(f"{file} holds no part that can be read.")

    def _take(self, label: Any) -> str:
        """Take a part or an assembly and all beneath it; answers its entry."""
        from OCP.XCAFDoc import XCAFDoc_ShapeTool

        waiting = [label]
        first = _entry(label)
        while waiting:
            here = waiting.pop()
            entry = _entry(here)
            if entry in self.names:
                continue
            self.names[entry] = _name(here)
            states, words = not_as_stated(here, XCAFDoc_ShapeTool.GetShape_s(here))
            if states:
                self.stated[entry] = words
            if len(self.names) > MOST_KINDS:
                raise TallyError(f"It has more than {MOST_KINDS:,} kinds of parts.")
            components = _components(here)
            below = [what for what, _ in components]
            if not below or all(_is_body(b) for b in below):
                self.shapes[entry] = XCAFDoc_ShapeTool.GetShape_s(here)
                self.colours[entry] = _colour(here, below)
                continue
            self.wholes[entry] = XCAFDoc_ShapeTool.GetShape_s(here)
            self.components[entry] = components
            self.under[entry] = Counter(map(_entry, below))
            waiting += below
        return first

    def placed(self, entry: str) -> list[tuple[str, Any]]:
        """Name and shape of what stands directly in an assembly, in its place."""
        from OCP.XCAFDoc import XCAFDoc_ShapeTool

        return [(_name(what), XCAFDoc_ShapeTool.GetShape_s(there)) for what, there in self.components.get(entry, ())]

    def standing(self) -> dict[str, list[tuple[str, Any]]]:
        """Of each assembly the entries directly in it, with where they stand."""
        from OCP.XCAFDoc import XCAFDoc_ShapeTool

        return {
            entry: [(_entry(what), transform_of(XCAFDoc_ShapeTool.GetLocation_s(there))) for what, there in components]
            for entry, components in self.components.items()
        }

    def totals(self) -> Counter[str]:
        """How often each stands in all, tops once. Raises TallyError where that is beyond counting, or goes round in a circle."""
        found: Counter[str] = Counter()
        waits = Counter(entry for below in self.under.values() for entry in below)
        ready = list(dict.fromkeys(self.tops))
        for entry in ready:
            found[entry] += 1
        done = 0
        while ready:
            entry = ready.pop()
            done += 1
            for below, times in self.under.get(entry, {}).items():
                found[below] += found[entry] * times
                if found[below] > MOST_PLACES:
                    raise TallyError(f"It has more than {MOST_PLACES:,} parts in place.")
                waits[below] -= 1
                if not waits[below]:
                    ready.append(below)
        if done < len(self.names):
            raise TallyError("Its assemblies hold one another in a circle.")
        return found


def _components(label: Any) -> list[tuple[Any, Any]]:
    """What an assembly holds directly, each as often as it stands there: what it is, and that it stands there; nothing for a part."""
    from OCP.TDF import TDF_Label, TDF_LabelSequence
    from OCP.XCAFDoc import XCAFDoc_ShapeTool

    if not XCAFDoc_ShapeTool.IsAssembly_s(label):
        return []
    components, found = TDF_LabelSequence(), []
    XCAFDoc_ShapeTool.GetComponents_s(label, components, False)
    for i in range(1, components.Length() + 1):
        referred = TDF_Label()
        if XCAFDoc_ShapeTool.GetReferredShape_s(components.Value(i), referred):
            found.append((referred, components.Value(i)))
    return found


def _is_body(label: Any) -> bool:
    """Whether it is a piece of a part's shape rather than a part: the kernel names such pieces by what they are."""
    return _name(label) in _BODIES and not _components(label)


def _entry(label: Any) -> str:
    from OCP.TCollection import TCollection_AsciiString
    from OCP.TDF import TDF_Tool

    text = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, text)
    return text.ToCString()


def _name(label: Any) -> str:
    from OCP.TDataStd import TDataStd_Name

    held = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), held):
        return ""
    return " ".join("".join(c for c in held.Get().ToExtString() if c.isprintable()).split())[:200]


def _colour(label: Any, bodies: list[Any]) -> str:
    """The colour of a part, or of the first of its bodies that has one, as #rrggbb; empty for none."""
    from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
    from OCP.XCAFDoc import XCAFDoc_ColorGen, XCAFDoc_ColorSurf, XCAFDoc_ColorTool

    colour = Quantity_Color()
    for held in (label, *bodies):
        for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
            if XCAFDoc_ColorTool.GetColor_s(held, kind, colour):
                rgb = colour.Values(Quantity_TOC_sRGB)
                return "#" + "".join(f"{round(255 * min(max(c, 0.0), 1.0)):02x}" for c in rgb)
    return ""


def _read(files: list[str], drawn: bool, sections: list[tuple[str, float]]) -> dict[str, Any]:
    answer: dict[str, Any] = {"parts": [], "tree": [], "problems": []}
    answer |= {"assemblies": [], "looks": [], "as_stated": []} if drawn else {}
    answer |= {"sections": []} if drawn or sections else {}
    mains = mains_of([(f, Path(f).read_bytes()) for f in files])
    for file in mains:
        found = _read_one(file, drawn, sections)
        for kind, entries in found.items():
            answer[kind] += [({"file": file} if len(mains) > 1 else {}) | entry for entry in entries]
    return answer


def _read_one(file: str, drawn: bool, sections: list[tuple[str, float]]) -> dict[str, list[dict[str, Any]]]:
    assembly = _Assembly()
    assembly.read(file)
    cut = [
        {"side": side, "depth": depth, "view": section_of(assembly.placed(top), side, depth)}
        for top in assembly.tops
        for side, depth in sections
    ]
    if cut and not drawn:
        return {"sections": cut}
    totals = assembly.totals()
    parts, problems = [], []
    for entry, shape in assembly.shapes.items():
        name = assembly.names[entry]
        measured = sizes_of(shape)
        if not measured:
            problems.append({"row": 0, "message": f"{name or 'a part without a name'} has no shape."})
        more = {"drawing": line_drawing(shape), "colour": assembly.colours[entry], "sheet": _sheet(shape)} if drawn and measured else {}
        parts.append({"name": name, "count": totals[entry], **measured, **more})
    for entry, words in assembly.stated.items():
        if words:
            problems.append(
                {"row": 0, "message": f"{assembly.names[entry] or 'a part without a name'} is not what its file states: {words}."}
            )
    tree: list[dict[str, Any]] = [{"name": assembly.names[top], "parent": None, "count": 1} for top in assembly.tops]
    for entry, below in assembly.under.items():
        tree += [{"name": assembly.names[b], "parent": assembly.names[entry], "count": times} for b, times in below.items()]
    wholes = [
        # Sides are drawn of what the file is of; an assembly within it has a file of its own where it has a drawing.
        {
            "name": assembly.names[entry],
            "count": totals[entry],
            "drawing": line_drawing(shape),
            "views": views_of(assembly.placed(entry)) if entry in assembly.tops else {},
        }
        for entry, shape in (assembly.wholes.items() if drawn else ())
    ]
    read = {"parts": sorted(parts, key=lambda p: p["name"]), "tree": tree, "problems": problems}
    if not drawn:
        return read
    return read | {
        "assemblies": wholes,
        "looks": _looks(assembly, problems),
        "as_stated": [{"count": len(assembly.stated)}],
        "sections": cut,
    }


def _looks(assembly: _Assembly, problems: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The whole file as triangles, in the letters of base 64; where there are too many, that is a problem."""
    kinds = {e: (name, assembly.shapes.get(e), assembly.colours.get(e, "")) for e, name in assembly.names.items()}
    made = look_of(kinds, assembly.standing(), assembly.tops)
    if made is None:
        problems.append({"row": 0, "message": "It holds too much to be looked at from any side."})
        return []
    return [{"glb": base64.b64encode(made).decode()}] if made else []


def _sheet(shape: Any) -> dict[str, Any]:
    """Whether a part is bent from sheet, and its flat outline; what sets off the kernel is only said."""
    try:
        return sheet_metal(solid_of(shape))
    except Exception as error:
        return {"not": f"it cannot be unfolded ({type(error).__name__})"}


def _main(asked: str, files: list[str]) -> None:
    answer: dict[str, Any]
    drawn, *sections = json.loads(asked)
    try:
        _limited()
        answer = {"read": _read(files, drawn, sections)}
    except TallyError as error:
        answer = {"refused": str(error)}
    except Exception as error:
        answer = {"refused": f"{', '.join(files)} could not be read ({type(error).__name__})."}
    with contextlib.suppress(OSError):
        os.write(1, b"\n" + json.dumps(answer, ensure_ascii=False).encode() + b"\n")


if __name__ == "__main__":
    _main(sys.argv[1], sys.argv[2:])
