"""Critical paths and lead times against NetworkX's longest path, on networks made from the bundle's own JSON."""

import random
import unittest
from datetime import date, datetime, timedelta
from itertools import pairwise
from math import ceil

import networkx as nx
import numpy as np
from tally_core.basics.errors import ProblemsError
from tally_core.basics.kinds import BOUGHT
from tally_core.calendar.calendars import PLAIN_WEEK, ROUND_THE_CLOCK, Calendar, open_minutes, work_before, work_by_week, work_from
from tally_core.calendar.critical_path import critical_path
from tally_core.calendar.schedule import Overlap, Step, schedule_backward, schedule_forward
from tally_core.cost.answers import Basis, ask
from tally_core.cost.cost import standard_lots
from tally_core.stated.bundle import read_bundle
from tally_core.structure.structure import Structure
from tally_core.time.leadtime import DAY as MINUTES
from tally_core.time.leadtime import TimeTable, elapsed, lead_times, order_of_work, routing_times

from .generate import DAY, bundle

TODAY = date.fromisoformat(DAY)


def timed(seed: int) -> tuple[dict, str, list[str]]:
    """A generated bundle with times, an order of work, stations and transfer quantities."""
    document, top, options = bundle(seed)
    r = random.Random(seed + 77)
    for part in document["parts"]:
        if part["kind"] == "bought":
            part["lead_time_days"] = r.randint(0, 40)
    for sheet in document["build_sheets"]:
        sequences = sorted(o["sequence"] for o in sheet["operations"])
        for operation in sheet["operations"]:
            operation |= {
                "queue_minutes": str(r.randint(0, 300)),
                "wait_minutes": str(r.choice([0, 0, 1440])),
                "move_minutes": str(r.randint(0, 60)),
                "stations": r.randint(1, 3),
            }
            earlier = [s for s in sequences if s < operation["sequence"]]
            if earlier and r.random() < 0.4:
                operation["after"] = r.sample(earlier, r.randint(1, len(earlier)))
            if "subcontract" in operation:
                operation["subcontract"]["lead_days"] = r.randint(0, 9)
            elif r.random() < 0.5:
                operation["transfer_quantity"] = str(r.choice([1, 2.5, 20]))
    return document, top, options


def time_table(document: dict, s: Structure, sheets: dict[int, dict]) -> TimeTable:
    """The columns of the time rules for centers that work round the clock."""
    o = s.operations
    # What works beside an operation neither queues nor waits nor moves by itself, at one station.
    operations = [
        {"stations": 1} if nth else next(x for x in sheets[p]["operations"] if x["sequence"] == q)
        for p, q, nth in zip(o.parent.tolist(), o.sequence.tolist(), o.resource.tolist(), strict=True)
    ]
    before, after = order_of_work(s.operations, {row: o["after"] for row, o in enumerate(operations) if o.get("after")})

    def column(name: str, empty: float = 0.0) -> np.ndarray:
        return np.array([float(o.get(name, empty)) for o in operations])

    return TimeTable(
        queue_minutes=column("queue_minutes"),
        wait_minutes=column("wait_minutes"),
        move_minutes=column("move_minutes"),
        stations=column("stations"),
        transfer_quantity=column("transfer_quantity", float("nan")),
        outside_days=np.array([float(o.get("subcontract", {}).get("lead_days", 0)) for o in operations]),
        share=np.ones(len(operations)),
        before=before,
        after=after,
        lead_days=np.array([float(p.get("lead_time_days", 0)) for p in document["parts"]]),
    )


class Longest:
    """Rules T1, T2 and T4 once more: minutes from the JSON by hand, and NetworkX for the longest path."""

    def __init__(self, document: dict, s: Structure, sheets: dict[int, dict], lots: np.ndarray) -> None:
        self.centers = {c["code"]: c for c in document["work_centers"]}
        self.graph = nx.DiGraph()
        self.overlaps = self.slower = 0
        for row, part in enumerate(document["parts"]):
            self.graph.add_edge("begin", row, weight=MINUTES * part.get("lead_time_days", 0))
            if row in sheets:
                self._routing(row, sheets[row], float(lots[row]))
        for usage in range(len(s.line)):
            if s.byproduct[usage] or s.free[usage]:
                continue
            parent, child = int(s.parent[usage]), int(s.child[usage])
            operations = sorted(sheets[parent]["operations"], key=lambda o: o["sequence"])
            at = next(
                (
                    x
                    for x in operations
                    if s.lines.operation[s.line[usage]] >= 0 and x["sequence"] == s.operations.sequence[s.lines.operation[s.line[usage]]]
                ),
                operations[0] if operations else None,
            )
            self.graph.add_edge(child, ("start", parent, at["sequence"]) if at else parent, weight=0.0)

    def _routing(self, row: int, sheet: dict, lot: float) -> None:
        operations = sorted(sheet["operations"], key=lambda o: o["sequence"])
        started = lot
        spent = {}
        for operation in reversed(operations):
            started /= float(operation["yield_percent"]) / 100
            spent[operation["sequence"]] = self._times(operation, started)
        by_sequence = {o["sequence"]: o for o in operations}
        for place, operation in enumerate(operations):
            q = operation["sequence"]
            work, tail, _, passed = spent[q]
            self.graph.add_edge("begin", ("start", row, q), weight=0.0)
            self.graph.add_edge(("start", row, q), ("end", row, q), weight=work + tail)
            self.graph.add_edge(("end", row, q), row, weight=0.0)
            for other in operation.get("after") or ([operations[place - 1]["sequence"]] if place else []):
                moved = by_sequence[other].get("transfer_quantity")
                if moved is None or "subcontract" in operation:
                    self.graph.add_edge(("end", row, other), ("start", row, q), weight=0.0)
                    continue
                self.overlaps += 1
                _, after, passing, _ = spent[other]
                self.graph.add_edge(("start", row, other), ("start", row, q), weight=passing(float(moved)) + after)
                ratio = self._starts(operations, other) / self._starts(operations, q)
                self.graph.add_edge(("end", row, other), ("end", row, q), weight=passed(float(moved) / ratio) + tail)

    @staticmethod
    def _starts(operations: list[dict], sequence: int) -> float:
        found = 1.0
        for operation in operations:
            if operation["sequence"] >= sequence:
                found /= float(operation["yield_percent"]) / 100
        return found

    def _times(self, operation: dict, started: float):
        """Working minutes, minutes after them, minutes until so many are passed on, and those of the run of so many."""
        after = float(operation["wait_minutes"]) + float(operation["move_minutes"])
        queue = float(operation["queue_minutes"])
        if "subcontract" in operation:
            away = queue + MINUTES * operation["subcontract"]["lead_days"]
            return away, after, lambda quantity: queue, lambda quantity: 0.0
        beside = operation.get("resources", [])
        # The slowest of those that work on it sets the time (T1).
        self.slower += any(
            self._set_up(x) + self._run(x, operation, 1, started)
            > self._set_up(operation) + self._run(operation, operation, operation["stations"], started)
            for x in beside
        )
        works = [(operation, operation["stations"]), *((x, 1) for x in beside)]

        def passing(quantity: float) -> float:
            quantity = min(quantity, started)
            return queue + max(self._set_up(x) + self._run(x, operation, n, quantity) for x, n in works)

        def moving(quantity: float) -> float:
            return max(self._run(x, operation, n, min(quantity, started)) for x, n in works)

        return passing(started), after, passing, moving

    def _pace(self, resource: dict) -> float:
        return float(self.centers[resource["work_center"]]["efficiency_percent"]) / 100

    def _set_up(self, resource: dict) -> float:
        return float(resource.get("setup_minutes", 0)) / self._pace(resource)

    def _run(self, resource: dict, operation: dict, stations: int, quantity: float) -> float:
        run = float(resource["run_minutes"]) / self._pace(resource) / stations
        match resource["run_basis"]:
            case "per_unit":
                return run * quantity
            case "per_cycle":
                return run * ceil(quantity / float(operation["cycle_quantity"]) - 1e-9)
            case _:
                return run

    def days(self) -> dict[int, float]:
        """The longest way to every part: NetworkX on the part and what leads to it."""
        found = {}
        for row in (n for n in self.graph if isinstance(n, int)):
            below = self.graph.subgraph(nx.ancestors(self.graph, row) | {row})
            found[row] = nx.dag_longest_path_length(below) / MINUTES
        return found


class LeadTimes(unittest.TestCase):
    def test_every_part_of_generated_products(self) -> None:
        overlaps = checked = slower = 0
        for seed in range(60):
            document, top, options = timed(seed)
            question = ask(read_bundle(document), top, Basis(TODAY, None, tuple(options)))
            s, lots = question.structure, standard_lots(question.structure)
            rows = {p["number"]: i for i, p in enumerate(document["parts"])}
            sheets = {rows[x["part"]]: x for x in document["build_sheets"]}
            longest = Longest(document, s, sheets, lots)
            times = time_table(document, s, sheets)
            found = lead_times(s, times, lots)
            for row, days in longest.days().items():
                # A product is cut out of the catalogue: what it does not take has lost its lines.
                if row in set(s.parent.tolist()) or s.parts.kind[row] == BOUGHT:
                    self.assertAlmostEqual(found[row], days, places=7, msg=f"seed {seed}, {document['parts'][row]}")
                    checked += 1
            overlaps += longest.overlaps
            slower += longest.slower
            self._schedules(s, times, lots, found[question.top])
        self.assertGreater(slower, 20)
        self.assertGreater(overlaps, 50)
        self.assertGreater(checked, 400)

    def _schedules(self, s: Structure, times: TimeTable, lots: np.ndarray, days: float) -> None:
        """Routings laid forward and backward round the clock take as long as :func:`routing_times` says."""
        spent = elapsed(s, times, lots)
        _, routing = routing_times(s, times, spent)
        start = datetime(2026, 1, 5)
        for part in np.unique(s.operations.parent).tolist():
            rows = range(*s.operations_of(part).indices(len(s.operations)))
            steps = [
                Step(
                    spent.work[i],
                    times.wait_minutes[i],
                    times.move_minutes[i],
                    ROUND_THE_CLOCK if np.isnan(s.operations.outside_price[i]) else None,
                )
                for i in rows
            ]
            follows: list[list[int]] = [[] for _ in rows]
            overlaps = {}
            for edge, (before, after) in enumerate(zip(times.before.tolist(), times.after.tolist(), strict=True)):
                if after in rows:
                    follows[after - rows[0]].append(before - rows[0])
                    if spent.overlaps[edge]:
                        overlaps[after - rows[0], before - rows[0]] = Overlap(spent.lead[edge], spent.tail[edge])
            forward = schedule_forward(steps, follows, start, overlaps)
            minutes = routing[part] * MINUTES
            self.assertAlmostEqual((max(forward.end) - start) / timedelta(minutes=1), minutes, places=3)
            backward = schedule_backward(steps, follows, max(forward.end), overlaps)
            self.assertAlmostEqual((min(backward.start) - start) / timedelta(minutes=1), 0, places=3)
            for (after, before), overlap in overlaps.items():
                for laid in (forward, backward):
                    passed = steps[before].end(laid.start[before], overlap.lead)
                    self.assertLessEqual(passed, laid.start[after] + timedelta(milliseconds=1))
                    self.assertLessEqual(steps[after].end(laid.end[before], overlap.tail), laid.end[after] + timedelta(milliseconds=1))


class CriticalPaths(unittest.TestCase):
    def test_wide_and_narrow_networks_in_any_numbering(self) -> None:
        for seed in range(40):
            r = np.random.default_rng(seed)
            width = [1, 3, 90, 300][seed % 4]
            count = width * int(r.integers(2, 12)) if width > 50 else 200
            layer = np.arange(count) // width
            before, after = [], []
            for node in range(width, count):
                for _ in range(int(r.integers(0, 4))):
                    before.append(int(r.integers(0, layer[node] * width)))
                    after.append(node)
            name = r.permutation(count)
            b, a = name[np.array(before, dtype=int)], name[np.array(after, dtype=int)]
            duration = r.integers(1, 1000, count).astype(float)
            graph = nx.DiGraph()
            graph.add_nodes_from(range(count + 1))
            graph.add_weighted_edges_from((x, y, duration[x]) for x, y in zip(b.tolist(), a.tolist(), strict=True))
            graph.add_weighted_edges_from((x, count, duration[x]) for x in range(count))
            end, path = critical_path(duration, b, a)
            self.assertEqual(end.max(), nx.dag_longest_path_length(graph))
            self.assertEqual(duration[path].sum(), end.max())
            for one, other in pairwise(path):
                self.assertTrue(graph.has_edge(one, other))

    def test_a_loop(self) -> None:
        for extra in (0, 200):
            # Beside a wide network and without one.
            before, after = np.array([0, 1, 2, 2]), np.array([1, 2, 0, 3])
            with self.assertRaisesRegex(ValueError, "wait for one another"):
                critical_path(np.ones(4 + extra), before, after)


class Stops(unittest.TestCase):
    """A planned stop takes the hours it covers out of the calendar, by hand. 30 November 2026 is a Monday."""

    calendar = Calendar(
        PLAIN_WEEK.shifts,
        frozenset({date(2026, 12, 3)}),
        ((datetime(2026, 11, 30, 10), datetime(2026, 11, 30, 12)), (datetime(2026, 12, 1, 15), datetime(2026, 12, 2, 9))),
    )

    def test_work_goes_round_it(self) -> None:
        self.assertEqual(work_from(self.calendar, datetime(2026, 11, 30, 8), 180), datetime(2026, 11, 30, 13))
        self.assertEqual(work_before(self.calendar, datetime(2026, 11, 30, 13), 180), datetime(2026, 11, 30, 8))
        self.assertEqual(work_from(self.calendar, datetime(2026, 12, 1, 14), 61), datetime(2026, 12, 2, 9, 1))

    def test_a_week_holds_what_is_open(self) -> None:
        # 40 h less 2 h on Monday, 1 h on Tuesday, 1 h on Wednesday and the closed Thursday.
        self.assertEqual(open_minutes(self.calendar, date(2026, 11, 30)), 60 * (40 - 2 - 1 - 1 - 8))
        laid = work_by_week(self.calendar, datetime(2026, 11, 30, 8), 60 * 30)
        self.assertEqual(laid, {date(2026, 11, 30): 60.0 * 28, date(2026, 12, 7): 120.0})

    def test_what_cannot_be_a_stop_is_named(self) -> None:
        center = {"code": "SAW", "stops": [{"start": "2026-12-01T09:00", "end": "2026-12-01T08:00"}, {"start": "soon"}]}
        with self.assertRaises(ProblemsError) as refused:
            read_bundle({"format": "round-tally-bundle", "version": 1, "work_centers": [center]})
        places = {p.place for p in refused.exception.problems}
        self.assertEqual(places, {"work_centers[0].stops[0].end", "work_centers[0].stops[1].start", "work_centers[0].stops[1].end"})
