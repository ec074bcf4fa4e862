"""``./tally bench --people``: the day of fifty people on a catalogue of 200,000 parts, by kind of request; on a database of its own.

They look, type, take in lists, plan what to buy, post from work centers, tally rounds, hand over and take exports away, each waiting between what they
do as people do. Told are median, 95th and worst answer of each kind, whatever went wrong, how many waited for a lock, and the memory of each process.

With ``--killed`` a web process, the worker and the database are killed in turn meanwhile; people repeat what got no answer, as the screens do, and at
the end what they were told was done is compared with what the database holds.
"""

import itertools
import os
import statistics
import threading
import time
from collections import Counter
from decimal import Decimal

from bench.measure import report
from bench.people_days import DAYS, OFFERED, PASSWORD, ROLE, STOCKED, Person, Seen
from bench.people_site import AWAY, Site, running

__all__ = ["a_day_of_fifty"]

_SECONDS = int(os.environ.get("TALLY_BENCH_SECONDS", "300"))
#: People by what they do.
_PEOPLE = {"engineer": 19, "viewer": 9, "shop": 10, "buyer": 5, "planner": 2, "accountant": 2, "estimator": 2, "keeper": 1}


def _watch(seen: Seen, site: Site, waits: list[int], memory: list[dict[str, float]]) -> None:
    """Every second how many wait for a lock, every ten the memory of each process; without a database nobody is asked."""
    from django.db import connection
    from django.db.utils import DatabaseError, InterfaceError

    for at in itertools.count():
        if time.monotonic() >= seen.until:
            break
        if at % 10 == 0:
            memory.append(site.memory())
        try:
            with connection.cursor() as cursor:
                cursor.execute("SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'")
                waits.append(cursor.fetchone()[0])
        except (DatabaseError, InterfaceError):
            connection.close()
        time.sleep(1.0)
    memory.append(site.memory())
    connection.close()


def _kill_in_turn(seen: Seen, site: Site) -> None:
    """A web process, the worker, the database, once each, with as much time before, between and behind."""
    victims = ("web", "worker-long", "database")
    pause = (seen.until - time.monotonic()) / (len(victims) + 1)
    for what in victims:
        time.sleep(pause - AWAY)
        seen.now = {"web": "a web process", "worker-long": "the worker"}.get(what, "the database")
        site.kill(what)


def _make_people() -> dict[str, str]:
    """Names of people with what they do; each in the group of a role."""
    from accounts.access import make_groups
    from django.contrib.auth.hashers import make_password
    from django.contrib.auth.models import Group, User

    make_groups()
    hashed, people = make_password(PASSWORD), {}
    for does, count in _PEOPLE.items():
        for at in range(count):
            name = f"{does}-{at + 1}"
            user, _ = User.objects.update_or_create(username=name, defaults={"password": hashed})
            user.groups.add(Group.objects.get(name=ROLE.get(does, does)))
            people[name] = does
    return people


def _fill_the_store() -> None:
    from definition.models.parts import Part
    from definition.models.sheets import Line
    from django.db import transaction
    from verbs.parts.post_stock import StockPost, post_stock

    taken = Line.objects.filter(sheet__part__number__in=STOCKED).values_list("part", flat=True)
    with transaction.atomic():
        keys = Part.objects.filter(pk__in=taken).values_list("pk", flat=True)
        post_stock("bench", [StockPost(key, Decimal(1_000_000), "counted") for key in keys])


def _offer_parts() -> None:
    """What some made parts take, at three suppliers that nobody knows."""
    from buying.models.offers import Offer
    from definition.models.sheets import Line
    from partners.models import Partner

    taken = Line.objects.filter(sheet__part__number__in=OFFERED, part__kind="bought").values_list("part", flat=True).distinct()
    for at in range(3):
        supplier, _ = Partner.objects.get_or_create(code=f"DAY{at}", defaults={"name": f"Supplier {at} of the day", "supplier": True})
        breaks = [["1", f"{2 + at / 10}"], ["10", f"{1.8 - at / 10:.2f}"]]
        Offer.objects.bulk_create(
            Offer(part_id=key, supplier=supplier, currency="EUR", unit="kg", breaks=breaks, taken_by="bench") for key in taken
        )


def a_day_of_fifty(killed: bool = False) -> bool:
    """Prints a row for each kind of request; holds where nothing went wrong, and with ``killed`` where nothing was lost or stands twice."""
    from inquiries.ours import bring_up

    people = _make_people()
    _fill_the_store()
    _offer_parts()
    # What the parts say is read once, when the first list comes in; after that what changed.
    began = time.monotonic()
    read = bring_up()
    print(f"{read:,} parts read for pairing in {time.monotonic() - began:.0f} s", flush=True)
    seen = Seen(killed=killed)
    waits: list[int] = []
    memory: list[dict[str, float]] = []
    with running() as site:
        seen.until = time.monotonic() + _SECONDS
        threads = []
        for at, (name, does) in enumerate(people.items()):
            person = Person(site.address, name, at, seen)
            threads.append(threading.Thread(target=person.live, args=(DAYS[does],)))
            threads[-1].start()
        # They sign in one after another; the day begins when the last one has.
        seen.until = time.monotonic() + _SECONDS
        threads.append(threading.Thread(target=_watch, args=(seen, site, waits, memory)))
        threads[-1].start()
        if killed:
            threads.append(threading.Thread(target=_kill_in_turn, args=(seen, site)))
            threads[-1].start()
        for thread in threads:
            thread.join()
    _tell(seen, memory)
    asked = sum(map(len, seen.taken.values()))
    every = sorted(x for kind, taken in seen.taken.items() if "until" not in kind for x in taken)
    held = not killed or _is_kept(seen)
    return report(
        f"what goes wrong in {_SECONDS} s of {len(people)} people{', one of each process killed' if killed else ''}, of {asked:,} requests",
        len(seen.wrong) + (not held),
        "none",
        held and not seen.wrong,
        f"{asked / _SECONDS:.1f} requests a second, median {statistics.median(every):.2f} s, 95th {every[int(len(every) * 0.95)]:.2f} s, "
        f"worst {every[-1]:.2f} s; {sum(waits) / max(len(waits), 1):.2f} waited for a lock on average, {max(waits, default=0)} at most",
    )


def _tell(seen: Seen, memory: list[dict[str, float]]) -> None:
    print(f"{'kind of request':<42}{'count':>7}{'median':>9}{'95th':>9}{'worst':>9}  seconds")
    for kind, taken in sorted(seen.taken.items(), key=lambda x: -statistics.median(x[1])):
        ranked = sorted(taken)
        print(f"{kind:<42}{len(ranked):>7}{statistics.median(ranked):>9.3f}{ranked[int(len(ranked) * 0.95)]:>9.3f}{ranked[-1]:>9.3f}")
    for words, count in Counter(seen.wrong).most_common(20):
        print(f"  {count} times {words}")
    for what in memory[0]:
        told = [m.get(what, 0.0) for m in memory]
        print(f"  memory of {what}, MB at tenths of the day: {' '.join(f'{told[round(n * (len(told) - 1) / 10)]:.0f}' for n in range(11))}")
    if seen.killed:
        print(f"{'killed last':<24}{'refused in words':>18}{'without an answer':>19}{'longest wait, s':>17}")
        for what in ("nobody", "a web process", "the worker", "the database"):
            print(f"{what:<24}{seen.in_words[what]:>18}{seen.without[what]:>19}{seen.longest[what]:>17}")


def _is_kept(seen: Seen) -> bool:
    """Whether everything that people were told is done stands once."""
    from django.db import connection

    # That of the morning went with the database that was killed.
    connection.close()
    with connection.cursor() as cursor:
        cursor.execute("SELECT key::text FROM shop_entry WHERE key IS NOT NULL")
        keys = Counter(row[0] for row in cursor.fetchall())
        cursor.execute("SELECT quantity FROM definition_historicalline WHERE history_type = '~'")
        quantities = Counter(row[0] for row in cursor.fetchall())
    reports = [key for key in seen.reported if keys[key] != 1]
    edits = [quantity for quantity in seen.edited if quantities[Decimal(quantity)] != 1]
    print(
        f"  reports said to be done: {len(seen.reported)}, lost or twice: {len(reports)}; "
        f"edits said to be done: {len(seen.edited)}, lost or twice: {len(edits)}"
    )
    return not reports and not edits
