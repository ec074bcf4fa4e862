"""Lead times and the longest path, measured."""

import time

from bench.measure import DAY, medians, report


def lead_times_against_roll_up() -> bool:
    """Lead times of every part, routings and levels together, against rolling up their cost; both from what was loaded."""
    import numpy as np
    from loading.reads import load_catalogue
    from loading.times_read import load_times
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.structure.structure import build_structure
    from tally_core.time.leadtime import lead_times

    loaded = load_catalogue(DAY)
    start = time.perf_counter()
    times = load_times(loaded)
    read = time.perf_counter() - start
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, DAY)
    lots = standard_lots(s)
    days = lead_times(s, times, lots)
    # A part is there no sooner than anything it takes.
    counts = ~s.byproduct & ~s.free
    assert (days[s.parent[counts]] >= days[s.child[counts]]).all() and days.max() > np.median(times.lead_days)
    a, b = medians(lambda: lead_times(s, times, lots), lambda: roll_up(s, lots), 7)
    return report(
        f"lead times of {len(days):,} parts and {len(s.operations):,} operations / their roll-up",
        a / b,
        "at most 2",
        a / b <= 2,
        f"{a:.3f} s and {b:.3f} s; reading what only they need took {read:.2f} s",
    )


def critical_path_against_networkx(width: int, bound: float) -> bool:
    """The critical path of 10,000 operations in random numbering, ``width`` of them side by side, each following two."""
    import networkx as nx
    import numpy as np
    from tally_core.calendar.critical_path import critical_path

    count, random = 10_000, np.random.default_rng(20261125)
    layer = np.arange(count) // width
    at = np.arange(width, count)
    after = np.concatenate((at, at))
    before = (layer[after] - 1) * width + random.integers(0, width, len(after))
    name = random.permutation(count)
    before, after = np.unique(np.column_stack((name[before], name[after])), axis=0).T.copy()
    duration = random.uniform(1, 100, count)
    graph = nx.DiGraph()
    graph.add_nodes_from(range(count + 1))
    graph.add_weighted_edges_from(zip(before.tolist(), after.tolist(), duration[before].tolist(), strict=True))
    graph.add_weighted_edges_from((i, count, float(duration[i])) for i in range(count))
    assert critical_path(duration, before, after)[1] == nx.dag_longest_path(graph)[:-1], "the two must find the same path"
    a, b = medians(lambda: nx.dag_longest_path(graph), lambda: critical_path(duration, before, after), 9)
    return report(
        f"NetworkX dag_longest_path / critical path of {count:,} operations, {width} side by side",
        a / b,
        f"at least {bound:g}" if bound else "for comparison",
        a / b >= bound,
        f"{a * 1000:.0f} ms and {b * 1000:.1f} ms; the graph of NetworkX was ready",
    )
