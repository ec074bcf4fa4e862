"""Classes of parts: the fields a class gives its parts, and those computed from others.

A computed field is an expression over the names of the class's other fields and of :data:`FACTS`, read by simpleeval:
arithmetic, comparison, ``a if b else c`` and the functions of :data:`FUNCTIONS`; no attributes, no calls of anything
else, nothing that could run long or grow large: all numbers are floats, text is only compared and joined, a result has at most
:data:`LONGEST_RESULT` characters, and :class:`Budget` bounds what a page of parts may take.
"""

import ast
import math
import operator
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from graphlib import CycleError, TopologicalSorter
from typing import Any

import simpleeval

from ..basics.errors import Problem, UnitError
from ..basics.kinds import FIELD_KINDS, ROLL_UPS
from ..basics.units import code
from .definition import PartClass
from .reading import RecordReader

__all__ = ["Budget", "FACTS", "FUNCTIONS", "LONGEST_RESULT", "check_class", "compute_fields", "evaluate", "read_values"]

#: What is stated of every part and may stand in an expression, under these names; nought where nothing is stated.
FACTS = ("unit_cost", "overhead_percent", "costing_lot", "lead_time_days", "mass_kg")
LONGEST_RESULT = 200
#: Steps that the computed fields of one page of parts may take; a step is a name, a number or an operator.
MOST_STEPS = 300_000


def _round(value: float, digits: float = 0) -> float:
    if not 0 <= digits <= 9 or digits != int(digits):
        raise ValueError("round takes 0 to 9 digits")
    return float(round(value, int(digits)))


def _numbers_only(operator: Callable[[Any, Any], Any]) -> Callable[[Any, Any], Any]:
    def checked(a: Any, b: Any) -> Any:
        if isinstance(a, str) or isinstance(b, str):
            raise ValueError("text is only compared and joined")
        return operator(a, b)

    return checked


def _add(a: Any, b: Any) -> Any:
    if isinstance(a, str) and isinstance(b, str):
        if len(a) + len(b) > LONGEST_RESULT:
            raise ValueError(f"a text has at most {LONGEST_RESULT} characters")
        return a + b
    return _numbers_only(operator.add)(a, b)


FUNCTIONS: dict[str, Callable[..., Any]] = {"min": min, "max": max, "round": _round, "abs": abs, "sqrt": math.sqrt, "pi": lambda: math.pi}
_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,39}")
_LONGEST, _MOST_NODES, _MOST_FIELDS = 300, 120, 40
_FORBIDDEN = (
    ast.Attribute,
    ast.Subscript,
    ast.Lambda,
    ast.JoinedStr,
    ast.FormattedValue,
    ast.ListComp,
    ast.GeneratorExp,
    ast.Dict,
    ast.List,
    ast.Tuple,
    ast.Set,
    ast.SetComp,
    ast.DictComp,
    ast.Starred,
    ast.NamedExpr,
    ast.Await,
)


#: The kinds of fields that can be added up, and that have an order.
_NUMERIC, _ORDERED = ("number", "money", "computed"), ("choice",)


def check_class(part_class: PartClass) -> Iterator[Problem]:
    """Problems of a class; a field's stand at ``fields[2].expression``."""
    if not 0 < len(part_class.name.strip()) <= 60:
        yield Problem("name", "the name of a class has 1 to 60 characters")
    if not re.fullmatch(r"[A-Za-z0-9_./-]{0,30}", part_class.prefix):
        yield Problem("prefix", "a prefix is at most 30 letters, digits and - _ . /")
    if not 0 <= part_class.digits <= 12:
        yield Problem("digits", "numbers run in 1 to 12 digits; 0 means that they do not run")
    for name in ("start", "step"):
        least = 0 if name == "start" else 1
        if not least <= getattr(part_class, name) < 10**9:
            yield Problem(name, f"the {name} is a whole number from {least}")
    if len(part_class.fields) > _MOST_FIELDS:
        yield Problem("fields", f"a class has at most {_MOST_FIELDS} fields")
    seen: dict[str, int] = {}
    for index, own in enumerate(part_class.fields):
        place = f"fields[{index}]"
        if not _NAME.fullmatch(own.name):
            yield Problem(f"{place}.name", "a field's name is letters, digits and _, beginning with a letter")
        elif own.name in FACTS or own.name in FUNCTIONS:
            yield Problem(f"{place}.name", f"{own.name} is the name of something every part has")
        elif seen.setdefault(own.name.lower(), index) != index:
            yield Problem(f"{place}.name", f"{own.name} stands twice")
        if own.kind not in FIELD_KINDS:
            yield Problem(f"{place}.kind", f"a field is one of {', '.join(FIELD_KINDS)}")
        if own.unit and own.kind in ("number", "computed"):
            try:
                code(own.unit)
            except UnitError as error:
                yield Problem(f"{place}.unit", str(error))
        if own.kind == "choice" and not [c for c in own.choices if c.strip()]:
            yield Problem(f"{place}.choices", "name the choices")
        if own.rolls_up not in ROLL_UPS:
            yield Problem(f"{place}.rolls_up", f"a field rolls up as {', '.join(ROLL_UPS[1:])}, or not at all")
        elif own.rolls_up and own.kind not in (_ORDERED if own.rolls_up == "worst" else _NUMERIC):
            needed = "the worst of choices" if own.rolls_up == "worst" else f"the {own.rolls_up} of numbers"
            yield Problem(f"{place}.rolls_up", f"a field that rolls up takes {needed}")
    yield from _check_expressions(part_class)


@dataclass(slots=True)
class Budget:
    """How many steps are left for what is computed together, like a page of parts."""

    steps: int = MOST_STEPS


def _check_expressions(part_class: PartClass) -> Iterator[Problem]:
    usable = {f.name for f in part_class.fields if f.kind in ("number", "money", "choice", "text", "computed")}
    needs: dict[str, set[str]] = {}
    broken = False
    for index, own in enumerate(part_class.fields):
        if own.kind != "computed":
            continue
        place = f"fields[{index}].expression"
        try:
            names = _names_in(own.expression)
        except ValueError as error:
            broken = True
            yield Problem(place, str(error))
            continue
        for unknown in sorted(names - usable - set(FACTS)):
            broken = True
            yield Problem(place, f"{unknown} is not known here; known are {', '.join([*sorted(usable - {own.name}), *FACTS])}")
        needs[own.name] = names & usable
    if broken:
        return
    try:
        TopologicalSorter(needs).prepare()
    except CycleError as error:
        path = error.args[1]
        index = next(i for i, f in enumerate(part_class.fields) if f.name == path[0])
        yield Problem(f"fields[{index}].expression", f"these fields need one another: {' → '.join(reversed(path))}")


def _names_in(expression: str) -> set[str]:
    """The names an expression uses. Raises ValueError for one that may not be evaluated."""
    if not expression.strip():
        raise ValueError("an expression is needed, like length_mm * width_mm / 1000000")
    if len(expression) > _LONGEST:
        raise ValueError(f"an expression has at most {_LONGEST} characters")
    try:
        tree = ast.parse(expression.strip(), mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        raise ValueError("this cannot be read as an expression") from None
    called: set[int] = set()
    names = set()
    nodes = list(ast.walk(tree))
    if len(nodes) > _MOST_NODES:
        raise ValueError("this expression is too long; split it over two fields")
    for node in nodes:
        if isinstance(node, _FORBIDDEN):
            raise ValueError("an expression is arithmetic over fields: no dots, brackets [ ] or lists")
        if isinstance(node, ast.Call):
            if not isinstance(node.func, ast.Name) or node.func.id not in FUNCTIONS or node.keywords:
                raise ValueError(f"the functions are {', '.join(sorted(FUNCTIONS))}")
            called.add(id(node.func))
        if (
            isinstance(node, ast.BinOp)
            and isinstance(node.op, ast.Pow | ast.LShift | ast.RShift | ast.MatMult | ast.BitOr)
            and not (isinstance(node.op, ast.Pow) and isinstance(node.right, ast.Constant) and node.right.value in (2, 3))
        ):
            raise ValueError("of powers only ** 2 and ** 3 are known; for roots take sqrt")
        if isinstance(node, ast.Constant):
            _check_constant(node.value)
    for node in nodes:
        if isinstance(node, ast.Name) and id(node) not in called:
            names.add(node.id)
    return names


def _check_constant(value: Any) -> None:
    if not isinstance(value, int | float | str):
        raise ValueError("an expression holds numbers and text only")
    if isinstance(value, str) and (len(value) > LONGEST_RESULT or not value.isprintable()):
        raise ValueError("text in an expression is printable")
    if not isinstance(value, str) and not abs(value) < 1e15:
        raise ValueError("numbers in an expression are below 10 to the 15th")


def read_values(part_class: PartClass, typed: Mapping[str, Any], place: str = "") -> tuple[dict[str, str], list[Problem]]:
    """The values of a class's own fields as plain text, numbers written alike, and what is wrong with them.

    Args:
        typed: name → text; what is empty is not kept. Computed fields are not stated.
    """
    reader = RecordReader()
    by_name = {f.name: f for f in part_class.fields if f.kind != "computed"}
    kept: dict[str, str] = {}
    for name, value in typed.items():
        where = f"{place}{name}"
        own = by_name.get(name)
        if own is None:
            reader.wrong(where, f"{part_class.name or 'this class'} has no field {str(name)[:40]} to be stated")
            continue
        if value is None or value == "":
            continue
        text = reader.text(value, where)
        if text is None:
            continue
        text = text.strip()
        match own.kind:
            case "number" | "money":
                number = reader.decimal(text, where)
                if number is None:
                    continue
                if abs(number) >= Decimal("1e12"):
                    reader.wrong(where, f"{text[:40]} is too large")
                    continue
                text = f"{number.normalize():f}"
            case "date":
                day = reader.day(text, where)
                if day is None:
                    continue
                text = day.isoformat()
            case "choice":
                if text not in own.choices:
                    reader.wrong(where, f"choose one of {', '.join(own.choices)}")
                    continue
            case _:
                if len(text) > 2000:
                    reader.wrong(where, "text has at most 2000 characters")
                    continue
        kept[name] = text
    return kept, reader.problems


def evaluate(expression: str, known: Mapping[str, float | str]) -> float | str:
    """What an expression comes to. Raises ValueError, in words, for one that may not be evaluated, needs what is not known, or has no result."""
    lacking = sorted(_names_in(expression) - known.keys())
    if lacking:
        raise ValueError(f"needs {', '.join(lacking)}")
    try:
        return _Evaluator(dict(known)).eval(expression.strip())
    except ZeroDivisionError:
        raise ValueError("divides by nought") from None
    except ValueError:
        raise
    except Exception as error:
        raise ValueError(f"cannot be computed: {type(error).__name__}") from None


def compute_fields(
    part_class: PartClass, values: Mapping[str, str], facts: Mapping[str, Decimal | float | None], budget: Budget | None = None
) -> dict[str, str]:
    """The computed fields of a part: name → the result as text, or words that begin with ``–`` and say what is missing.

    Args:
        values: what :func:`read_values` kept.
        facts: what is stated of the part under the names of :data:`FACTS`.
        budget: what is left for all parts that are computed together.
    """
    budget = budget or Budget()
    results: dict[str, str] = {}
    known: dict[str, Any] = {name: float(facts.get(name) or 0) for name in FACTS}
    for own in part_class.fields:
        if own.kind == "computed" or own.name not in values:
            continue
        try:
            known[own.name] = float(values[own.name]) if own.kind in ("number", "money") else values[own.name]
        except ValueError:
            # A value kept before the field became a number; what needs it says so.
            continue
    for name, expression in _in_order(tuple((f.name, f.expression) for f in part_class.fields if f.kind == "computed")):
        if isinstance(expression, str):
            results[name] = f"– {expression}"
            continue
        lacking = sorted(expression.needs - known.keys())
        if lacking:
            results[name] = f"– needs {', '.join(lacking)}"
            continue
        budget.steps -= expression.steps
        if budget.steps < 0:
            results[name] = "– too much is computed at once here; open the part alone"
            continue
        try:
            results[name] = _as_text(value := _Evaluator(known).eval(expression.text, expression.tree))
        except ZeroDivisionError:
            results[name] = "– divides by nought"
        except ValueError as error:
            results[name] = f"– cannot be computed: {error}"
        except Exception as error:
            results[name] = f"– cannot be computed: {type(error).__name__}"
        else:
            known[name] = value
    return results


@dataclass(frozen=True, slots=True)
class _Expression:
    text: str
    tree: Any
    needs: frozenset[str]
    steps: int


@lru_cache(maxsize=500)
def _in_order(fields: tuple[tuple[str, str], ...]) -> list[tuple[str, _Expression | str]]:
    """Computed fields, each behind those it needs; words for one that cannot be evaluated, whoever kept it."""
    found: dict[str, _Expression | str] = {}
    for name, text in fields:
        try:
            needs = frozenset(_names_in(text))
            tree = simpleeval.SimpleEval.parse(text.strip())
            found[name] = _Expression(text, tree, needs, sum(1 for _ in ast.walk(tree)))
        except (ValueError, simpleeval.InvalidExpression) as error:
            found[name] = f"cannot be computed: {error}"
    needed = {n: (e.needs & found.keys() if isinstance(e, _Expression) else set()) for n, e in found.items()}
    try:
        return [(name, found[name]) for name in TopologicalSorter(needed).static_order()]
    except CycleError:
        return [(name, "cannot be computed: these fields need one another") for name in found]


class _Evaluator(simpleeval.SimpleEval):
    """Numbers are floats, so that none can grow in digits; text cannot be multiplied."""

    def __init__(self, names: dict[str, Any]) -> None:
        super().__init__(names=names, functions=FUNCTIONS)
        for kind in (ast.Mult, ast.Mod, ast.Div, ast.FloorDiv, ast.Sub, ast.Pow):
            self.operators[kind] = _numbers_only(getattr(operator, _OPERATORS[kind]))
        self.operators[ast.Add] = _add
        self.nodes[ast.Constant] = lambda node: float(node.value) if type(node.value) is int else node.value


_OPERATORS: dict[type[ast.operator], str] = {
    ast.Mult: "mul",
    ast.Mod: "mod",
    ast.Div: "truediv",
    ast.FloorDiv: "floordiv",
    ast.Sub: "sub",
    ast.Pow: "pow",
}


def _as_text(value: Any) -> str:
    """A result as text. Raises ValueError for one that is too large to be read."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        if not abs(value) < 1e15:
            raise ValueError("the result is too large")
        return f"{Decimal(repr(round(value, 9))).normalize():f}"
    return str(value)[:LONGEST_RESULT]
