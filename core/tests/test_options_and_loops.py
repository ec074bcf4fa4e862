"""Options against plain fractions, and loops against a day-by-day search."""

import unittest
from datetime import date, timedelta
from fractions import Fraction as F
from itertools import pairwise

import networkx as nx
from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis, ask
from tally_core.stated.definition import Definition, Line, Part, Sheet
from tally_core.structure.effectivity import Candidate, choose_sheets, in_force
from tally_core.structure.loops import find_loop_in_force

#: Exact factors to pieces.
PIECES = {"ea": 1, "pair": 2, "dozen": 12}
QUANTITY = st.integers(1, 40)
ADDING = st.lists(st.tuples(QUANTITY, st.sampled_from([*PIECES]), st.sampled_from([None, "X", "Y"])), min_size=1, max_size=5)
REMOVING = st.lists(st.tuples(QUANTITY, st.sampled_from([*PIECES]), st.sampled_from(["X", "Y"])), max_size=4)


class Options(unittest.TestCase):
    @given(ADDING, REMOVING, st.sets(st.sampled_from("XY")))
    @settings(max_examples=300, deadline=None)
    def test_what_is_taken_away_in_list_order(self, adding: list, removing: list, chosen: set[str]) -> None:
        """Rule U6, in whole pieces: each removing line takes from the first line there is, then from the next."""
        lines = [Line(i, part="A", quantity=q, unit=u, option=o) for i, (q, u, o) in enumerate(adding, 1)]  # type: ignore[arg-type]
        lines += [
            Line(50 + i, part="A", quantity=q, unit=u, option=o, option_action="remove")  # type: ignore[arg-type]
            for i, (q, u, o) in enumerate(removing)
        ]
        left = [[F(q * PIECES[u]), u] for q, u, o in adding if o is None or o in chosen]
        short = False
        for q, u, o in removing:
            if o not in chosen:
                continue
            wanted = F(q * PIECES[u])
            for held in left:
                taken = min(held[0], wanted)
                held[0] -= taken
                wanted -= taken
            short |= wanted > 0
        known = {o: "" for *_, o in [*adding, *removing] if o}
        definition = Definition(
            parts=[Part("M", kind="made"), Part("A")], sheets=[Sheet("M", status="released", lines=lines)], options=known
        )
        basis = Basis(date(2026, 1, 1), None, tuple(sorted(chosen & known.keys())))
        if short:
            with self.assertRaisesRegex(TallyError, "more than is there"):
                ask(definition, "M", basis)
            return
        s = ask(definition, "M", basis).structure
        self.assertAlmostEqual(float(s.net_per_unit.sum()), float(sum(held[0] for held in left)), places=9)
        # A line taken whole is not there at all.
        self.assertEqual(len(s.line), sum(held[0] > 0 for held in left))

    def test_it_takes_from_its_own_kind_only(self) -> None:
        for other in ({"quantity_basis": "per_lot"}, {"kind": "byproduct"}):
            held = Line(10, part="A", quantity=5, **other)  # type: ignore[arg-type]
            taker = Line(20, part="A", quantity=1, option="X", option_action="remove")  # type: ignore[arg-type]
            definition = Definition(
                parts=[Part("M", kind="made"), Part("A")], sheets=[Sheet("M", status="released", lines=[held, taker])], options={"X": ""}
            )
            with self.assertRaises(TallyError):
                ask(definition, "M", Basis(date(2026, 1, 1), None, ("X",)))


DAYS = st.none() | st.integers(1, 6).map(lambda n: date(2026, 1, 1) + timedelta(days=n))
HEADS = st.lists(
    st.tuples(st.integers(0, 3), st.sampled_from("AB"), st.sampled_from(["draft", "released"]), DAYS, DAYS), min_size=1, max_size=6
)


class Loops(unittest.TestCase):
    @given(HEADS, st.lists(st.tuples(st.integers(0, 5), st.integers(0, 3), DAYS, DAYS), max_size=10))
    @settings(max_examples=300, deadline=None)
    def test_a_loop_is_found_exactly_when_it_exists_on_some_day(self, heads: list, uses: list) -> None:
        """Every day of the span is tried; each alternate counts, as its sheets take turns among themselves."""
        sheets = [Candidate(i, p, a, chr(65 + i), s, first, last) for i, (p, a, s, first, last) in enumerate(heads)]
        edges = [(key % len(sheets), child, first, last) for key, child, first, last in uses]
        found = find_loop_in_force("PQRS", sheets, edges)
        exists = False
        for n in range(9):
            day = date(2026, 1, 1) + timedelta(days=n)
            for drafts in (False, True):
                chosen = set()
                for part, way in {(s.part, s.alternate) for s in sheets}:
                    chosen |= set(choose_sheets([s for s in sheets if (s.part, s.alternate) == (part, way)], day, drafts).values())
                graph = nx.DiGraph([(sheets[k].part, c) for k, c, first, last in edges if k in chosen and in_force(day, first, last)])
                exists |= not nx.is_directed_acyclic_graph(graph)
        self.assertEqual(found is not None, exists)
        if found is not None:
            self.assertEqual(found[0], found[-1])
            steps = {(sheets[k].part, c) for k, c, *_ in edges}
            self.assertTrue(all(("PQRS".index(a), "PQRS".index(b)) in steps for a, b in pairwise(found)))
            self.assertEqual(len(set(found)), len(found) - 1)
