"""Reading a list to rows against reading its cells, and pairing against comparing with every number."""

import random
import time

from bench.measure import medians, report

#: Letters that makers use; invented numbers.
_LETTERS, _DIGITS = "ABCDEFGHJKLMNPQRTUVWXYZ", "0123456789"
_TEXTS = (
    "Resistor {} kΩ, 1 %, 0603",
    "Capacitor {} µF, 25 V, X7R, 0805",
    "Screw M{} x 16, stainless A2",
    "Aluminium tube, {} x 6 mm",
    "Bracket {}, painted",
    "Cable 5 x {} mm2",
)


def _number(r: random.Random) -> str:
    return "".join((*r.choices(_LETTERS, k=3), *r.choices(_DIGITS, k=5), *r.choices(_LETTERS, k=2), *r.choices(_DIGITS, k=2)))


def neutral_reading(lines: int, bound: float) -> bool:
    """A workbook read to checked rows, against the bare cells."""
    import io

    import python_calamine
    import xlsxwriter
    from formats.tables import parse_tables
    from tally_core.lists.neutral import read_list

    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"constant_memory": False})
    sheet = book.add_worksheet("List")
    sheet.write_row(0, 0, ["Item", "Part", "Description", "Qty", "Unit", "Designators", "Maker", "MPN"])
    for n in range(1, lines + 1):
        sheet.write_row(n, 0, [n, f"P-{n:06}", f"Resistor {n % 97} k", 2, "pcs", f"R{2 * n} R{2 * n + 1}", "Norwick", f"NR{n:06}"])
    book.close()
    content = buffer.getvalue()

    def bare() -> None:
        python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(content)).get_sheet_by_index(0).to_python()

    def rows() -> None:
        assert len(read_list(parse_tables("list.xlsx", content)[0].rows).rows) == lines

    a, b = medians(rows, bare, 4)
    words = f"a workbook of {lines:,} lines read to checked rows / its bare cells"
    return report(words, a / b, f"at most {bound}", a / b <= bound, f"{a:.2f} s and {b:.2f} s")


def pairing_against_every_number(parts: int, numbers: int, lines: int) -> bool:
    """Lines paired with parts, against RapidFuzz over all numbers; and what share of its finds is found."""
    from rapidfuzz import fuzz, process
    from tally_core.pairing.describe import describe
    from tally_core.pairing.numbers import fold
    from tally_core.pairing.propose import Asked, Ours, Shelf

    r = random.Random(5)
    ours = [Ours(f"P{i:06}", r.choice(_TEXTS).format(r.randint(1, 99)), [("Norwick", _number(r), 1)]) for i in range(parts)]
    for _ in range(numbers - parts):
        r.choice(ours).makers.append(("Tarn", _number(r), 2))
    began = time.perf_counter()
    shelf = Shelf(ours)
    laid_out = time.perf_counter() - began
    asked = []
    for _ in range(lines):
        number = r.choice(r.choice(ours).makers)[1]
        at = r.randrange(len(number) - 1)
        slip = r.choice((number + "TR", number[:at] + number[at + 1] + number[at] + number[at + 2 :], number.replace("0", "O", 1), number))
        asked.append((fold(slip), fold(number)))
    began = time.perf_counter()
    found = [{p.part for p in shelf.propose(Asked(maker_number=slip))} for slip, _ in asked]
    own = time.perf_counter() - began
    choices = [fold(number) for part in ours for _, number, _ in part.makers]
    of = {fold(number): part.number for part in ours for _, number, _ in part.makers}
    some = asked[:: max(1, lines // 100)]
    began = time.perf_counter()
    theirs = [process.extractOne(slip, choices, scorer=fuzz.ratio, score_cutoff=90) for slip, _ in some]
    every = (time.perf_counter() - began) * lines / len(some)
    hits = [(of[hit[0]], at) for hit, (at, (_, number)) in zip(theirs, enumerate(some), strict=True) if hit and hit[0] == number]
    share = sum(part in found[at * max(1, lines // 100)] for part, at in hits) / len(hits)
    began = time.perf_counter()
    for part in ours[:20_000]:
        describe(part.texts)
    each = min(20_000, len(ours)) / (time.perf_counter() - began)
    holds = every / own >= 20 and share >= 0.99
    print(
        f"{'holds' if holds else 'MISSES'}  {lines:,} lines paired with {parts:,} parts and {numbers:,} numbers, times faster than comparing "
        f"with every one: {every / own:.0f} (at least 20), finding {share:.1%} of what that finds (at least 99 %); {own:.1f} s, laid out "
        f"in {laid_out:.1f} s; {each:,.0f} descriptions a second",
        flush=True,
    )
    return holds


def pairing_from_the_database(numbers: int, lines: int) -> bool:
    """Lines paired with the parts that the columns kept in the database find for them, against RapidFuzz over all numbers."""
    from definition.models.parts import MakerNumber, Part
    from inquiries.ours import bring_up, shelf_for
    from partners.models import Partner
    from rapidfuzz import fuzz, process
    from tally_core.pairing.numbers import fold
    from tally_core.pairing.propose import Asked

    r = random.Random(5)
    makers = ("Norwick", "Tarn")
    for name in makers:
        Partner.objects.get_or_create(name=name, defaults={"code": name.upper(), "maker": True})
    if MakerNumber.objects.count() < numbers:
        keys = list(Part.objects.filter(kind__in=("bought", "made")).order_by("id").values_list("id", flat=True))
        rows = [MakerNumber(part_id=keys[n % len(keys)], rank=1, maker_id=r.choice(makers), number=_number(r)) for n in range(numbers)]
        MakerNumber.objects.bulk_create(rows, batch_size=5000)
    began = time.perf_counter()
    read = bring_up()
    brought = time.perf_counter() - began
    held = list(MakerNumber.objects.order_by("id").values_list("number", flat=True))
    of = dict(MakerNumber.objects.values_list("number", "part__number"))
    asked = []
    for number in r.sample(held, lines):
        at = r.randrange(len(number) - 1)
        swapped = number[:at] + number[at + 1] + number[at] + number[at + 2 :]
        slip = r.choice((number + "TR", swapped, number.replace("0", "O", 1), number))
        asked.append((number, Asked(maker_number=slip, description=r.choice(_TEXTS).format(r.randint(1, 99)))))
    began = time.perf_counter()
    shelf = shelf_for(a for _, a in asked)
    found = sum(of[number] in {p.part for p in shelf.propose(a)} for number, a in asked)
    own = time.perf_counter() - began
    folded = [fold(n) for n in held]
    began = time.perf_counter()
    for _, a in asked[:20]:
        process.extractOne(fold(a.maker_number), folded, scorer=fuzz.ratio, score_cutoff=90)
    every = (time.perf_counter() - began) * lines / 20
    words = f"{lines:,} lines paired from the database with {len(held):,} numbers, times faster than comparing with every one"
    return report(
        words,
        every / own,
        "at least 20, finding 99 %",
        every / own >= 20 and found / lines >= 0.99,
        f"{own:.2f} s and {every:.0f} s, finding {found / lines:.1%}; {read:,} parts read in {brought:.0f} s",
    )
