"""What rounds and questions to a cost take."""

import time

from bench.measure import DAY, medians, report

__all__ = ["causes_against_roll_up", "sensitivities_against_roll_up", "tally_of_a_round_against_reading_and_copying"]


def sensitivities_against_roll_up() -> bool:
    """All sensitivities of one part, the whole catalogue around it, against rolling the catalogue up once."""
    import numpy as np
    from loading.reads import load_catalogue, part_named
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.cost.sensitivity import sensitivities
    from tally_core.structure.structure import build_structure

    from bench.catalogue import TOP

    loaded = load_catalogue(DAY)
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, DAY)
    lots = standard_lots(s)
    costs = roll_up(s, lots)
    top = loaded.row(part_named(TOP).id)
    tables = sensitivities(s, costs, top).tables
    # Prices, and all that is paid by the hour, make up the whole cost: 1 % of each is 1 % of it.
    money = tables["part"]["unit_cost"].sum() + sum(
        tables["operation"][n].sum() for n in ("labor_rate", "setup_labor_rate", "machine_rate", "overhead_per_hour")
    )
    np.testing.assert_allclose(money, costs.unit[top].sum() * 0.01, rtol=1e-9)
    count = sum(int(np.count_nonzero(column)) for columns in tables.values() for column in columns.values())
    a, b = medians(lambda: sensitivities(s, costs, top), lambda: roll_up(s, lots), 7)
    return report(
        f"all {count:,} sensitivities of one part among {len(s.line):,} lines / roll-up of the catalogue",
        a / b,
        "at most 3",
        a / b <= 3,
        f"{a:.3f} s and {b:.3f} s",
    )


def causes_against_roll_up() -> bool:
    """Why every part of the catalogue differs between two costings that differ in every cause, against one roll-up."""
    from dataclasses import replace

    import numpy as np
    from loading.reads import load_catalogue
    from tally_core.cost.causes import Costing, causes
    from tally_core.cost.cost import roll_up, standard_lots
    from tally_core.structure.structure import build_structure

    loaded = load_catalogue(DAY)
    s = build_structure(loaded.parts, loaded.lines, loaded.operations, DAY)
    old = Costing(s, standard_lots(s), loaded.part_ids)
    random = np.random.default_rng(20261125)
    work = loaded.operations
    lines = replace(loaded.lines, quantity=loaded.lines.quantity * random.uniform(0.9, 1.1, len(loaded.lines)))
    # The last line of every hundredth sheet is not there.
    gone = np.ones(len(loaded.lines), dtype=bool)
    gone[9::1000] = False
    lines = replace(lines, **{n: getattr(lines, n)[gone] for n in type(lines).__dataclass_fields__})
    parts = replace(
        loaded.parts,
        unit_cost=loaded.parts.unit_cost * random.uniform(0.9, 1.2, len(loaded.parts)),
        costing_lot=np.where(random.random(len(loaded.parts)) < 0.1, 50.0, loaded.parts.costing_lot),
    )
    operations = replace(work, labor_rate=work.labor_rate * 1.05, run_minutes=work.run_minutes * 0.97)
    t = build_structure(parts, lines, operations, DAY)
    new = Costing(t, standard_lots(t), loaded.part_ids)
    found, before, after = causes(old, new)
    np.testing.assert_allclose(found.sum(axis=1), after - before, rtol=1e-9, atol=1e-9)
    np.testing.assert_allclose(after, roll_up(t, new.lots).unit.sum(axis=1), rtol=1e-9)
    assert (np.abs(found).sum(axis=0) > 0).all(), "every cause must have moved something"
    a, b = medians(lambda: causes(old, new), lambda: roll_up(s, old.lots), 5)
    return report(f"causes for {len(found):,} parts, all six / their roll-up", a / b, "at most 8", a / b <= 8, f"{a:.2f} s and {b:.3f} s")


def tally_of_a_round_against_reading_and_copying() -> bool:
    """A round over the whole catalogue, compared with the standards of another that was accepted, from the database to
    stored results, against reading the rows and writing the same results with COPY."""
    from accounts.access import make_groups
    from django.contrib.auth.models import Group, User
    from django.db import connection, transaction
    from jobs.work import job_state, last_job
    from loading.reads import load_catalogue
    from rounds.actions.accept_round import run_accept
    from rounds.actions.open_round import open_round
    from rounds.actions.propose import propose
    from rounds.actions.tally_round import run_tally
    from rounds.copying import copy_rows
    from rounds.jobs import KIND, begin
    from rounds.snapshot import pack, unpack
    from rounds.tallying import tally_round
    from standards.models import Round, Standard, TallyInputs

    with connection.cursor() as cursor:
        cursor.execute("TRUNCATE standards_round CASCADE")
    make_groups()
    user, _ = User.objects.get_or_create(username="bench")
    user.groups.add(Group.objects.get(name="accountant"))

    def job(the_round: Round) -> int:
        with transaction.atomic():
            return begin(the_round, "bench", "bench").pk

    def tally(the_round: Round) -> None:
        run_tally.call(the_round.pk, job(the_round), "bench")
        the_round.refresh_from_db()
        assert not (ended := job_state(last_job(KIND, the_round.pk))).failed, ended

    first = open_round(user, {"name": "first", "first_day": DAY.isoformat(), "scope": "all"})
    tally(first)
    start = time.perf_counter()
    run_accept.call(first.pk, job(first), user.pk, first.version)
    accepted = time.perf_counter() - start
    count = Standard.objects.count()
    assert count > 190_000
    the_round = open_round(user, {"name": "second", "first_day": "2027-01-01", "scope": "all"})
    propose(user, the_round.pk, [{"table": "work_center", "key": f"WC{i}", "field": "labor_rate", "value": "40"} for i in range(8)])
    the_round.refresh_from_db()
    tally(the_round)
    tallied = tally_round(the_round, lambda words, step: None)
    names = ("part", "lot", "unit", "elements", "this_level", "before", "before_elements", "causes", "standard")
    columns = {n + ("_id" if n == "part" else ""): getattr(tallied, n) for n in names}

    def theirs() -> None:
        load_catalogue(the_round.first_day)
        with transaction.atomic():
            copy_rows("standards_tallyrow", columns | {"tally_id": tallied.lot * 0 + the_round.tally.pk}, len(tallied.part))
            transaction.set_rollback(True)

    kept = bytes(TallyInputs.objects.get(tally__round=the_round).content)
    start = time.perf_counter()
    assert len(pack(tallied.loaded, tallied.fixed)) == len(kept)
    packing = time.perf_counter() - start
    start = time.perf_counter()
    unpack(kept)
    opening = time.perf_counter() - start
    lines = len(tallied.loaded.lines)
    print(
        f"kept inputs of {lines:,} lines: {len(kept) / 1e6:.1f} MB, {len(kept) / lines:.0f} bytes a line; packed in {packing:.2f} s, "
        f"opened in {opening:.2f} s",
        flush=True,
    )
    a, b = medians(lambda: tally(the_round), theirs, 3)
    return report(
        f"tally of a round over {len(tallied.part):,} parts against their standards, stored / reading rows and COPY of results",
        a / b,
        "at most 4",
        a / b <= 4,
        f"{a:.2f} s and {b:.2f} s; accepting it, {count:,} standards, took {accepted:.1f} s",
    )
