"""Levels, loops and requirements against NetworkX and linear algebra; workings against the roll-up."""

import random
import subprocess
import sys
import unittest
from datetime import date
from pathlib import Path

import networkx as nx
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import coo_array, identity
from scipy.sparse.linalg import spsolve
from tally_core.basics.elements import AT
from tally_core.basics.ordering import find_loop, low_level_codes, reachable
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.working import Workings
from tally_core.cost.working_basics import OPERATORS, Working
from tally_core.stated.bundle import read_bundle, schema, write_bundle
from tally_core.structure.effectivity import Candidate
from tally_core.structure.loops import find_loop_in_force
from tally_core.structure.needs import places_in_one

from .generate import DAY, bundle

EDGES = st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=40)


class Ordering(unittest.TestCase):
    @given(EDGES)
    @settings(max_examples=150, deadline=None)
    def test_levels_and_loops_agree_with_networkx(self, edges: list[tuple[int, int]]) -> None:
        graph = nx.DiGraph(edges)
        graph.add_nodes_from(range(12))
        ends = np.array(edges, dtype=int).reshape(-1, 2)
        loop = find_loop(12, ends[:, 0], ends[:, 1])
        self.assertEqual(loop is None, nx.is_directed_acyclic_graph(graph))
        if loop is not None:
            self.assertTrue(nx.is_path(graph, loop) and loop[0] == loop[-1])
            return
        level = low_level_codes(12, ends[:, 0], ends[:, 1])
        for depth, nodes in enumerate(nx.topological_generations(graph)):
            self.assertTrue((level[nodes] == depth).all())
        seen = set(np.flatnonzero(reachable(12, ends[:, 0], ends[:, 1], 0)).tolist())
        self.assertEqual(seen, nx.descendants(graph, 0) | {0})

    def test_a_loop_only_counts_when_its_sheets_meet(self) -> None:
        june, july = date(2026, 6, 1), date(2026, 7, 1)
        old = Candidate(0, 0, "A", "A", "released", None, july)
        edges = [(0, 1, None, None), (1, 0, None, None)]
        later = Candidate(1, 1, "A", "A", "released", july, None)
        overlapping = Candidate(1, 1, "A", "A", "released", june, None)
        self.assertIsNone(find_loop_in_force(["P", "Q"], [old, later], edges))
        self.assertEqual(find_loop_in_force(["P", "Q"], [old, overlapping], edges), ["P", "Q", "P"])


class Requirements(unittest.TestCase):
    def test_needs_are_the_inverse_of_the_technology_matrix(self) -> None:
        """A. Vazsonyi, "The use of mathematics in production and inventory control", Management Science 1 (1954):
        total requirements are (I - A)^-1 applied to what is ordered. Without losses, lots or rounding."""
        r = random.Random(11)
        count = 120
        lines = [(i, min(i + r.randint(1, 9), count - 1), r.randint(1, 5)) for i in range(count - 1) for _ in range(3)]
        made = {i for i, _, _ in lines}
        document = {
            "format": "round-tally-bundle",
            "version": 1,
            "parts": [{"number": f"N{i}", "kind": "made" if i in made else "bought", "unit": "kg"} for i in range(count)],
            "build_sheets": [
                {"part": f"N{i}", "status": "released", "lines": [{"part": f"N{b}", "quantity": f"{q / 8}"} for a, b, q in lines if a == i]}
                for i in made
            ],
        }
        question = ask(read_bundle(document), "N0", Basis(date(2026, 1, 1), 1))  # type: ignore[arg-type]
        _, needs = tally(question)
        assert needs is not None
        use = coo_array(([q / 8 for *_, q in lines], ([a for a, _, _ in lines], [b for _, b, _ in lines])), shape=(count, count))
        wanted = np.zeros(count)
        wanted[0] = 1
        solved = spsolve((identity(count) - use.T).tocsc(), wanted)
        np.testing.assert_allclose(needs.gross, solved, rtol=1e-12, atol=1e-12)
        # Without losses anywhere, what stands in one is what one takes.
        np.testing.assert_allclose(places_in_one(question.structure, question.top), solved, rtol=1e-12, atol=1e-12)


class Places(unittest.TestCase):
    def test_losses_and_what_is_taken_once_per_lot_stand_in_no_unit(self) -> None:
        """By hand: 2 arms of 3 screws, for a batch of 4; with scrap, operations that lose, a set-up piece and a by-product beside them."""
        document = {
            "format": "round-tally-bundle",
            "version": 1,
            "work_centers": [{"code": "W"}],
            "parts": [{"number": n, "kind": "made", "unit": "ea"} for n in ("TOP", "ARM")]
            + [{"number": n, "kind": "bought", "unit": "ea"} for n in ("SCREW", "SETUP", "CHIP")],
            "build_sheets": [
                {
                    "part": "TOP",
                    "status": "released",
                    "operations": [{"sequence": 10, "name": "Fit", "work_center": "W", "yield_percent": "50"}],
                    "lines": [
                        {"part": "ARM", "quantity": "2", "scrap_percent": "30"},
                        {"part": "SETUP", "quantity": "5", "quantity_basis": "per_lot"},
                        {"part": "SCREW", "quantity": "1", "fixed_loss": "9"},
                    ],
                },
                {
                    "part": "ARM",
                    "status": "released",
                    "batch": "4",
                    "lines": [
                        {"part": "SCREW", "quantity": "12", "yield_percent": "80"},
                        {"part": "CHIP", "quantity": "3", "kind": "byproduct"},
                    ],
                },
            ],
        }
        question = ask(read_bundle(document), "TOP", Basis(date(2026, 1, 1), 1))  # type: ignore[arg-type]
        numbers = question.structure.parts.numbers
        places = dict(zip(numbers, places_in_one(question.structure, question.top).tolist(), strict=True))
        self.assertEqual(places, {"TOP": 1, "ARM": 2, "SCREW": 7, "SETUP": 0, "CHIP": 0})


def leaves(working: Working) -> list[Working]:
    return [working] if not working.operands else [x for o in working.operands for x in leaves(o)]


class WorkingsTest(unittest.TestCase):
    def check(self, working: Working) -> None:
        """A working is what it says: each operator over its operands gives the value beside it."""
        if working.operands:
            made = OPERATORS[working.operator]([o.value for o in working.operands])
            self.assertAlmostEqual(made, working.value, delta=1e-9 * max(1, abs(made)))
            for operand in working.operands:
                self.check(operand)
        else:
            self.assertIn(working.operator, ("input", "figure", "sum", "product"))

    def test_every_figure_opens_down_to_inputs_and_agrees_with_the_roll_up(self) -> None:
        opened = 0
        for seed in range(40):
            document, top, options = bundle(seed)
            for quantity in (None, 25):
                question = ask(
                    read_bundle(document),
                    top,
                    Basis(date.fromisoformat(DAY), quantity, tuple(options)),  # type: ignore[arg-type]
                )
                costs, needs = tally(question)
                workings = Workings(question.structure, costs, needs, "EUR", question.top)
                waiting = [(("unit", question.top), float(costs.unit[question.top].sum()))]
                waiting += [(("element", question.top, e), float(costs.unit[question.top, e])) for e in range(9)]
                waiting.append((("charges", question.top), float(costs.unit[question.top, AT["other"]])))
                seen = set()
                while waiting:
                    figure, value = waiting.pop()
                    working = workings.open(figure)
                    opened += 1
                    self.assertAlmostEqual(working.value, value, delta=1e-9 * max(1, abs(value)), msg=f"{seed} {figure}")
                    self.check(working)
                    for leaf in leaves(working):
                        if leaf.figure and leaf.figure not in seen:
                            seen.add(leaf.figure)
                            waiting.append((leaf.figure, leaf.value))
                        elif leaf.operator == "input":
                            self.assertIsNone(leaf.figure)
        self.assertGreater(opened, 3000)


class BundleTest(unittest.TestCase):
    def test_writing_and_reading_changes_nothing(self) -> None:
        for seed in range(30):
            document, _, _ = bundle(seed)
            once = write_bundle(read_bundle(document))
            self.assertEqual(write_bundle(read_bundle(once)), once)

    def test_bundles_keep_to_the_schema(self) -> None:
        import jsonschema

        validator = jsonschema.Draft202012Validator(schema())
        for seed in range(10):
            document, _, _ = bundle(seed)
            validator.validate(document)
            validator.validate(write_bundle(read_bundle(document)))
        self.assertFalse(validator.is_valid({"format": "round-tally-bundle", "version": 1, "parts": [{"number": "A"}]}))


class Alone(unittest.TestCase):
    def test_the_core_runs_without_a_web_framework_or_the_server(self) -> None:
        """Every module of the core imports and answers with Django, the server and the drivers out of reach."""
        program = """
import sys
class Nothing:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in {"django", "ninja", "psycopg", "simple_history", "parts", "sheets", "costing", "pydantic"}:
            raise ImportError(name + " is out of reach")
sys.meta_path.insert(0, Nothing())
import importlib, pkgutil, tally_core
for module in pkgutil.walk_packages(tally_core.__path__, "tally_core."):
    importlib.import_module(module.name)
from datetime import date
from pathlib import Path
from tally_core.cost.answers import Basis, ask, cost_answer
from tally_core.stated.bundle import read_bundle
part = {"number": "A", "kind": "bought", "unit": "ea", "unit_cost": "2.5"}
document = {"format": "round-tally-bundle", "version": 1, "parts": [part]}
print(cost_answer(ask(read_bundle(document), "A", Basis(date(2026, 1, 1))))["unit_cost"])
"""
        done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, cwd=Path(__file__).parents[1], check=False)
        self.assertEqual((done.stdout.strip(), done.stderr), ("2.500000", ""))
