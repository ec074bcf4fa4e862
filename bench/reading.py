"""What it costs that files from outside are read in a process of their own."""

import io
import statistics
import time

import xlsxwriter

__all__ = ["reading_apart"]


def _workbook(lines: int) -> bytes:
    packed = io.BytesIO()
    book = xlsxwriter.Workbook(packed, {"in_memory": True})
    sheet = book.add_worksheet("List")
    sheet.write_row(0, 0, ["Level", "Pos", "Part number", "Description", "Qty", "Unit", "Unit cost", "Ref des"])
    for n in range(lines):
        sheet.write_row(n + 1, 0, [1 + n % 3, 10 * n, f"P-{n:06}", "Screw, pan head, M4 x 12", 3.5, "pcs", 0.12, f"R{n}, R{n + 1}"])
    book.close()
    return packed.getvalue()


def reading_apart(lines: int, bound: float) -> bool:
    """A list of so many lines, read apart / in place; with a moment between, as files come from people."""
    from formats.apart import read_tables
    from formats.tables import parse_tables

    content = _workbook(lines)
    pause = 0.1 if lines < 1000 else 0.0
    waited: list[float] = []

    def apart() -> None:
        # The pause is not counted: it lets another process get ready, as it does between two files of a person.
        began = time.perf_counter()
        tables = read_tables("list.xlsx", content)
        waited.append(time.perf_counter() - began)
        assert len(tables[0].rows) == lines + 1
        time.sleep(pause)

    inside: list[float] = []

    def in_place() -> None:
        began = time.perf_counter()
        parse_tables("list.xlsx", content)
        inside.append(time.perf_counter() - began)
        time.sleep(pause)

    for _ in range(25 if lines < 1000 else 6):
        apart()
        in_place()
    a, b = statistics.median(waited[1:]), statistics.median(inside[1:])
    print(
        f"{'holds' if a / b <= bound else 'MISSES'}  a list of {lines:,} lines read in a process of its own / in place: {a / b:.2f} "
        f"(at most {bound}); {1000 * a:.1f} ms and {1000 * b:.1f} ms",
        flush=True,
    )
    return a / b <= bound
