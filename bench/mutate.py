"""Small changes to the core, one at a time, and how many of them its tests notice: ``./tally mutate MODULE...``

A comparison flipped, a term dropped, a sign changed, a constant moved by one, a statement left out. Each change is laid on
the module in memory, in a process forked for it, and the tests that reach its line run there until one fails: nothing is
written to the work tree, and a change that makes a loop endless ends with its process. What nothing notices is printed with
its line. Some changes nothing anyone could see, which only a reader can tell: once told, it stands in ``unseen.txt`` with the
reason, and is counted apart.

Written here because the known tools did not serve: one leaves decorated functions alone, and every check is one; the other
writes each change into the work tree and starts Python anew for it.
"""

import argparse
import ast
import contextlib
import hashlib
import importlib
import importlib.abc
import importlib.util
import io
import json
import os
import random
import signal
import sys
import time
import unittest
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from types import CodeType, ModuleType

import hypothesis

ROOT = Path(__file__).resolve().parent.parent
CORE = ROOT / "core" / "tally_core"
UNSEEN = ROOT / "bench" / "unseen.txt"
_COMPARED: dict[type[ast.cmpop], tuple[type[ast.cmpop], ...]] = {
    ast.Lt: (ast.LtE, ast.GtE),
    ast.LtE: (ast.Lt, ast.Gt),
    ast.Gt: (ast.GtE, ast.LtE),
    ast.GtE: (ast.Gt, ast.Lt),
    ast.Eq: (ast.NotEq,),
    ast.NotEq: (ast.Eq,),
    ast.In: (ast.NotIn,),
    ast.NotIn: (ast.In,),
    ast.Is: (ast.IsNot,),
    ast.IsNot: (ast.Is,),
}
_RECKONED: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.FloorDiv: ast.Mult,
    ast.Mod: ast.Mult,
    ast.BitAnd: ast.BitOr,
    ast.BitOr: ast.BitAnd,
}


# -- the changes


def _is_text(node: ast.AST) -> bool:
    return isinstance(node, ast.JoinedStr) or (isinstance(node, ast.Constant) and isinstance(node.value, str))


def _variants(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    """What one node could be instead, with words for it."""
    match node:
        case ast.Compare(ops=[op], left=left, comparators=right):
            for other in _COMPARED[type(op)]:
                yield f"{type(op).__name__} → {other.__name__}", ast.Compare(left, [other()], right)
        case ast.BinOp(left=left, op=op, right=right) if not _is_text(left) and not _is_text(right):
            if type(op) in _RECKONED:
                other_op = _RECKONED[type(op)]
                yield f"{type(op).__name__} → {other_op.__name__}", ast.BinOp(left, other_op(), right)
            if isinstance(op, ast.Add | ast.Sub):
                yield "second term dropped", left
        case ast.AugAssign(target=target, op=op, value=value) if not _is_text(value):
            if type(op) in _RECKONED:
                yield f"{type(op).__name__}= turned", ast.AugAssign(target, _RECKONED[type(op)](), value)
            yield "statement left out", ast.Pass()
        case ast.UnaryOp(op=ast.Not() | ast.USub(), operand=operand):
            yield f"{type(node.op).__name__} dropped", operand
        case ast.BoolOp(op=op, values=values):
            yield "and ↔ or", ast.BoolOp(ast.Or() if isinstance(op, ast.And) else ast.And(), values)
            yield "last operand dropped", values[0] if len(values) == 2 else ast.BoolOp(op, values[:-1])
        case ast.Constant(value=bool(value)):
            yield f"{value} → {not value}", ast.Constant(not value)
        case ast.Constant(value=int(number)):
            yield f"{number} → {number + 1}", ast.Constant(number + 1)
        case ast.If(test=ast.Name() | ast.Call() | ast.Attribute() as test, body=body, orelse=orelse):
            yield "condition turned", ast.If(ast.UnaryOp(ast.Not(), test), body, orelse)
        case ast.Expr(value=ast.Call() | ast.Yield() | ast.YieldFrom()) | ast.Continue() | ast.Break():
            yield "statement left out", ast.Pass()


class _Reader(ast.NodeVisitor):
    """Numbers every possible change; with ``wanted``, makes that one."""

    def __init__(self, tree: ast.Module) -> None:
        self.found: list[tuple[int, str]] = []
        self.places: list[tuple[ast.AST, str, int | None, ast.AST]] = []
        self._walk(tree)

    def _walk(self, node: ast.AST) -> None:
        for name, value in ast.iter_fields(node):
            if name in ("annotation", "returns", "decorator_list", "type_comment"):
                continue
            children = value if isinstance(value, list) else [value]
            for index, child in enumerate(children):
                if not isinstance(child, ast.AST) or isinstance(child, ast.JoinedStr):
                    continue
                if isinstance(child, ast.Assign) and getattr(child.targets[0], "id", "") == "__all__":
                    continue
                if isinstance(child, ast.Assert):
                    continue  # tells the type checker what the lines before have settled
                if isinstance(child, ast.keyword) and child.arg == "strict":
                    continue  # guards a mistake of ours, which no test can make without changing the module itself
                for words, instead in _variants(child):
                    self.found.append((child.lineno, words))  # type: ignore[attr-defined]
                    self.places.append((node, name, index if isinstance(value, list) else None, instead))
                self._walk(child)


def _changed(source: str, number: int, name: str) -> CodeType:
    tree = ast.parse(source)
    node, field, index, instead = _Reader(tree).places[number]
    old = getattr(node, field) if index is None else getattr(node, field)[index]
    ast.copy_location(instead, old)
    if index is None:
        setattr(node, field, instead)
    else:
        getattr(node, field)[index] = instead
    return compile(ast.fix_missing_locations(tree), name, "exec")


class _Instead(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Imports one module from code that was changed."""

    def __init__(self, name: str, code: CodeType) -> None:
        self.name, self.code = name, code

    def find_spec(self, name, path=None, target=None):
        return importlib.util.spec_from_loader(name, self, origin=self.code.co_filename) if name == self.name else None

    def exec_module(self, module: ModuleType) -> None:
        module.__file__ = self.code.co_filename
        exec(self.code, module.__dict__)


# -- the tests


def _forget() -> None:
    for name in [n for n in sys.modules if n.split(".")[0] in ("tally_core", "tests")]:
        del sys.modules[name]


def _suite() -> dict[str, unittest.TestCase]:
    def each(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
        for test in suite:
            if isinstance(test, unittest.TestSuite):
                yield from each(test)
            else:
                yield test

    return {test.id(): test for test in each(unittest.TestLoader().discover(str(ROOT / "core"), top_level_dir=str(ROOT / "core")))}


def _passes(test: unittest.TestCase) -> bool:
    result = unittest.TestResult()
    with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
        unittest.TestSuite([test]).run(result)
    return result.wasSuccessful()


def _reach() -> dict[str, tuple[float, list[str]]]:
    """For each test, how long it takes and which lines of the core it runs, as ``module:line``."""
    reached: set[str] = set()
    names: dict[CodeType, str] = {}
    called = {path: name for name, path in modules().items()}

    def lines(frame, event, arg):
        reached.add(f"{names[frame.f_code]}:{frame.f_lineno}")
        return lines

    def calls(frame, event, arg):
        code = frame.f_code
        if code not in names:
            path = Path(code.co_filename)
            names[code] = called.get(path, "")
        if not names[code]:
            return None
        reached.add(f"{names[code]}:{frame.f_lineno}")
        return lines

    found = {}
    for name, test in _suite().items():
        reached.clear()
        sys.settrace(calls)
        try:
            passed = _passes(test)
        finally:
            sys.settrace(None)
        if not passed:
            raise SystemExit(f"{name} fails as it stands; mend that first.")
        began = time.perf_counter()
        _passes(test)
        found[name] = (time.perf_counter() - began, sorted(reached))
    return found


def _kept_reach() -> dict[str, tuple[float, list[str]]]:
    """What :func:`_reach` found for the core and the tests as they stand; looking takes minutes, so it is kept."""
    files = [Path(__file__), *sorted((ROOT / "core").rglob("*.py"))]
    key = hashlib.sha256(b"".join(f.read_bytes() for f in files)).hexdigest()
    kept = Path(os.environ.get("TALLY_STATE", ROOT / ".tally")) / "reach.json"
    if kept.exists() and (held := json.loads(kept.read_text()))["key"] == key:
        return held["reach"]
    print("Which tests reach which lines; this takes some minutes …", file=sys.stderr, flush=True)
    found = _reach()
    kept.parent.mkdir(exist_ok=True)
    kept.write_text(json.dumps({"key": key, "reach": found}))
    return found


def modules() -> dict[str, Path]:
    """The modules of the core by name, and where two folders have one of a name by that of the folder, too: ``stated.reading``."""
    paths = [p for p in sorted(CORE.rglob("*.py")) if p.stem != "__init__"]
    alone = Counter(p.stem for p in paths)
    return {p.stem if alone[p.stem] == 1 else f"{p.parent.name}.{p.stem}": p for p in paths}


def set_aside() -> list[tuple[str, str, str]]:
    """Module, beginning of the line and change of what nobody could notice; each has its reason in the file."""
    rows = [line.split(" | ") for line in UNSEEN.read_text().splitlines() if line and not line.startswith("#")]
    wrong = [row for row in rows if len(row) != 4]
    if wrong:
        raise SystemExit(f"{UNSEEN.name}: a line is module | line | change | why, not {wrong[0]}")
    return [(module, line, change) for module, line, change, _ in rows]


def _naming(module: str, tests: Iterable[str]) -> list[str]:
    """Of tests, those whose file names the module."""
    files = {f.stem: f.read_text() for f in (ROOT / "core" / "tests").glob("*.py")}
    return [n for n in tests if n.startswith("tests.") and f".{module} import" in files[n.split(".")[1]]]


def _run_changed(name: str, code: CodeType, tests: list[str], seconds: float) -> bool:
    """Whether one of the tests fails on changed code."""
    pid = os.fork()
    if pid == 0:
        status = 1
        try:
            signal.signal(signal.SIGALRM, signal.SIG_DFL)
            signal.alarm(int(seconds))
            _forget()
            sys.meta_path.insert(0, _Instead(name, code))
            suite = _suite()
            status = 0 if all(test in suite and _passes(suite[test]) for test in tests) else 1
        except BaseException:
            status = 1
        finally:
            os._exit(status)
    _, how = os.waitpid(pid, 0)
    return how != 0


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("modules", nargs="*", help="names of core modules; all of them when none is named")
    parser.add_argument("--most", type=int, default=40, help="changes tried per module, picked at random by a fixed seed; 0 for all")
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    sys.path.insert(0, str(ROOT / "core"))
    # Neither shrinking nor what an earlier run kept matters here: one failure is enough.
    hypothesis.settings.register_profile(
        "mutate",
        database=None,
        deadline=None,
        derandomize=True,
        print_blob=False,
        phases=(hypothesis.Phase.explicit, hypothesis.Phase.generate),
    )
    hypothesis.settings.load_profile("mutate")
    reach = _kept_reach()
    path_of = modules()
    if unknown := [m for m in asked.modules if m not in path_of]:
        near = [m for m in path_of if m.split(".")[-1] == unknown[0]]
        raise SystemExit(f"The core has no module {unknown[0]}" + (f"; there is {' and '.join(near)}." if near else "."))
    total = caught_of_all = 0
    unseen = set_aside()
    for module in asked.modules or sorted(path_of):
        path = path_of[module]
        source = path.read_text()
        lines = source.splitlines()
        every = list(enumerate(_Reader(ast.parse(source)).found))
        changes = [
            (number, (line, words))
            for number, (line, words) in every
            if not any(m == module and words == w and lines[line - 1].strip().startswith(text) for m, text, w in unseen)
        ]
        aside = len(every) - len(changes)
        if asked.most and len(changes) > asked.most:
            changes = sorted(random.Random(f"{asked.seed}{module}").sample(changes, asked.most))
        missed = []
        at = {name: {int(w.split(":")[1]) for w in where if w.startswith(f"{module}:")} for name, (_, where) in reach.items()}
        for number, (line, words) in changes:
            # A line that runs on import is reached by whatever uses the module; one of nothing but records, by all that name it.
            in_function = any(line in lines for lines in at.values())
            tests = [n for n, lines in at.items() if (line in lines if in_function else lines)]
            if not in_function:
                # Also by who only looks at what stands there.
                tests = [*dict.fromkeys([*tests, *_naming(module, at)])]
            tests.sort(key=lambda n: reach[n][0])
            code = _changed(source, number, str(path))
            if not _run_changed(f"tally_core.{path.parent.name}.{path.stem}", code, tests, 10 + 2 * sum(reach[n][0] for n in tests)):
                missed.append(f"{line}: {words}: {source.splitlines()[line - 1].strip()[:90]}")
        caught = len(changes) - len(missed)
        total, caught_of_all = total + len(changes), caught_of_all + caught
        apart = f"; {aside} that nobody could notice set aside" if aside else ""
        print(f"{module:<20} {caught:>4} of {len(changes):>4} noticed, {caught / max(len(changes), 1):.0%}{apart}", flush=True)
        for text in missed:
            print(f"    {text}", flush=True)
    print(json.dumps({"changes": total, "noticed": caught_of_all, "share": round(caught_of_all / max(total, 1), 4)}))


if __name__ == "__main__":
    main()
