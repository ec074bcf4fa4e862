"""The same figure by two roads: needs and where-used, costs and needs, what is chosen and what a reader would choose."""

import unittest
from datetime import date, timedelta
from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.elements import AT
from tally_core.basics.kinds import PHANTOM
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.cost import roll_up, standard_lots
from tally_core.stated.bundle import read_bundle
from tally_core.structure.effectivity import Candidate, choose_sheets, in_force, overlap, revision_order
from tally_core.structure.needs import average_needs, uses_of

from .generate import DAY, bundle

TODAY = date.fromisoformat(DAY)


def plain(seed: int) -> tuple[dict, str, list[str]]:
    """A generated bundle in which everything that is taken is paid for: no given costs, nothing customer-supplied."""
    document, top, options = bundle(seed)
    for part in document["parts"]:
        part.pop("given_cost", None)
    for sheet in document["build_sheets"]:
        for line in sheet["lines"]:
            line.pop("customer_supplied", None)
    return document, top, options


class TwoWays(unittest.TestCase):
    def test_what_one_takes_of_another_is_what_the_other_stands_in_the_one(self) -> None:
        """A row of (I − A)⁻¹ downwards, a column of it upwards: the same number where they cross."""
        crossed = 0
        for seed in range(60):
            document, top, options = bundle(seed)
            question = ask(read_bundle(document), top, Basis(TODAY, None, tuple(options)))
            s, lots = question.structure, standard_lots(question.structure)
            needs = average_needs(s, question.top, lots)
            for part in np.flatnonzero(needs).tolist():
                taken, distance = uses_of(s, part, lots)
                np.testing.assert_allclose(taken[question.top], needs[part], rtol=1e-12)
                self.assertEqual(distance[question.top] >= 0, True)
                self.assertEqual((taken[part], distance[part]), (1.0, 0))
                crossed += 1
        self.assertGreater(crossed, 200)

    def test_a_cost_is_what_all_that_is_taken_costs_by_itself(self) -> None:
        """Unrolled: Σ need × own cost over all parts, less what comes back; the roll-up goes level by level instead."""
        for seed in range(60):
            document, top, options = plain(seed)
            question = ask(read_bundle(document), top, Basis(TODAY, None, tuple(options)))
            s, lots = question.structure, standard_lots(question.structure)
            costs = roll_up(s, lots)
            needs = average_needs(s, question.top, lots)
            # Of its own: prices, charges and operations; scrap and by-products arise from lines, and are taken out here.
            own = costs.this_level.copy()
            own[:, [AT["scrap"], AT["byproduct"]]] = 0.0
            total = costs.unit.sum(axis=1)
            back = np.flatnonzero(s.byproduct)
            gross = s.gross_per_unit[back] + s.gross_per_lot[back] / lots[s.parent[back]]
            returned = (needs[s.parent[back]] * gross * total[s.child[back]]).sum()
            wanted = (needs * own.sum(axis=1)).sum() - returned
            np.testing.assert_allclose(total[question.top], wanted, rtol=1e-10, atol=1e-10, err_msg=str(seed))

    def test_a_job_takes_at_least_its_quantity_in_every_made_lot(self) -> None:
        """Rules N1 and N2: a lot covers what is asked for, by less than one unit too much, and phantoms are not rounded."""
        for seed in range(80):
            document, top, options = bundle(seed)
            question = ask(read_bundle(document), top, Basis(TODAY, 7, tuple(options)))  # type: ignore[arg-type]
            _, needs = tally(question)
            assert needs is not None
            parts = question.structure.parts
            whole = parts.whole_only & (parts.kind != PHANTOM)
            over = needs.lot - needs.gross
            self.assertTrue((over[~whole] == 0).all())
            self.assertTrue((over[whole] > -1e-9).all() and (over[whole] < 1).all(), seed)
            np.testing.assert_allclose(needs.lot[whole], np.round(needs.lot[whole]), atol=0)

    def test_a_larger_lot_never_costs_more_a_unit_without_cycles(self) -> None:
        """Common practice: what is paid per lot is spread over more units. Part-full cycles are the exception."""
        compared = 0
        for seed in range(120):
            document, top, options = plain(seed)
            for sheet in document["build_sheets"]:
                for operation in sheet["operations"]:
                    if operation.get("run_basis") == "per_cycle":
                        operation["run_basis"] = "per_unit"
                # A larger lot makes what comes back cheaper, too, and so worth less.
                sheet["lines"] = [line for line in sheet["lines"] if line["kind"] != "byproduct"]
            # Whole units would round a lot up.
            for part in document["parts"]:
                part["whole_only"] = False
            definition = read_bundle(document)
            unit = []
            for quantity in (1, 4, 16, 64):
                question = ask(definition, top, Basis(TODAY, quantity, tuple(options)))  # type: ignore[arg-type]
                unit.append(float(tally(question)[0].unit[question.top].sum()))
            self.assertTrue(all(b <= a * (1 + 1e-12) for a, b in pairwise(unit)), (seed, unit))
            compared += 1
        self.assertGreater(compared, 8)


DAYS = st.integers(0, 30).map(lambda n: date(2026, 1, 1) + timedelta(days=n))
SPAN = st.tuples(st.none() | DAYS, st.none() | DAYS)
SHEETS = st.lists(
    st.tuples(
        st.integers(0, 2),
        st.sampled_from("AB"),
        st.sampled_from(["A", "B", "C", "AA"]),
        st.sampled_from(["draft", "released", "retired"]),
        SPAN,
        st.booleans(),
    ),
    max_size=8,
)


class Choosing(unittest.TestCase):
    @given(SHEETS, DAYS, st.booleans())
    @settings(max_examples=300, deadline=None)
    def test_the_sheet_that_counts_is_the_one_a_reader_would_take(self, rows: list, day: date, drafts: bool) -> None:
        sheets = [Candidate(i, p, a, r, s, *span, preferred) for i, (p, a, r, s, span, preferred) in enumerate(rows)]
        chosen = choose_sheets(sheets, day, drafts)
        for part in range(3):
            able = [
                s
                for s in sheets
                if s.part == part
                and (s.status == "released" or (drafts and s.status == "draft"))
                and (s.effective_from is None or s.effective_from <= day)
                and (s.effective_to is None or day < s.effective_to)
            ]
            if not able:
                self.assertNotIn(part, chosen)
                continue
            # The default alternate first, then by name; a draft before what is released; then the last to come into force.
            way = min((not s.preferred, s.alternate) for s in able)
            able = [s for s in able if (not s.preferred, s.alternate) == way]
            if any(s.status == "draft" for s in able):
                able = [s for s in able if s.status == "draft"]
                best = max(revision_order(s.revision) for s in able)
            else:
                last = max(s.effective_from or date.min for s in able)
                able = [s for s in able if (s.effective_from or date.min) == last]
                best = max(revision_order(s.revision) for s in able)
            self.assertEqual(revision_order(sheets[chosen[part]].revision), best)
            self.assertIn(chosen[part], [s.key for s in able])

    @given(SPAN, SPAN)
    @settings(max_examples=300, deadline=None)
    def test_spans_overlap_when_some_day_is_in_both(self, one: tuple, other: tuple) -> None:
        first = date(2025, 12, 31)
        shared = any(in_force(first + timedelta(days=n), *one) and in_force(first + timedelta(days=n), *other) for n in range(34))
        # A span that ends before it starts holds no day; it is refused before it is stored.
        if any(a and b and b <= a for a, b in (one, other)):
            return
        self.assertEqual(overlap(one, other), shared)
