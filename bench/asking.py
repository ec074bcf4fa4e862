"""Asking suppliers' services for what parts cost, against the time that their limits alone dictate."""

import threading
import time

from bench.measure import report

__all__ = ["ask_within_limits"]

_MINUTE = 60.0


def ask_within_limits(parts: int, services: int) -> bool:
    """So many makers' numbers of so many stand-ins in turns of both kinds of interface; each takes a little more than a third of its calls in a minute."""
    from outside.services import SupplierService
    from outside.suppliers import ask_suppliers

    from standins.suppliers import Server

    numbers = [f"N-{n}" for n in range(parts)]
    items = {n: ["Nordry", n, "1=2.00 100=1.50", 1, 0, 10, 5000, 7] for n in numbers}
    kinds = {f"s{at}": ("items", "quotation")[at % 2] for at in range(services)}
    calls = {name: parts if kind == "items" else -(-parts // 50) for name, kind in kinds.items()}
    limits = {name: n * 35 // 100 + 1 for name, n in calls.items()}
    server = Server(
        0,
        {
            name: {"name": name, "kind": kind, "currency": "EUR", "calls_a_minute": limits[name], "accounts": {"k": "1"}, "items": items}
            for name, kind in kinds.items()
        },
    )
    threading.Thread(target=server.serve_forever, daemon=True).start()
    asked = {}
    for name, kind in kinds.items():
        address = f"http://127.0.0.1:{server.server_port}/{name}/"
        said_of = {"words": name, "kind": kind, "address": address, "key": "k", "calls_a_minute": limits[name]}
        asked[name] = (SupplierService.model_validate(said_of), numbers)
    began = time.perf_counter()
    answered, failed = 0, 0
    for said in ask_suppliers(asked):
        answered += sum(offer is not None for offer in said.offers.values())
        failed += bool(said.failed)
    took = time.perf_counter() - began
    server.shutdown()
    server.server_close()
    dictated = max((n - 1) // limits[name] * _MINUTE for name, n in calls.items())
    ratio = took / dictated
    whole = answered == parts * services and not failed
    words = f"asking {parts:,} numbers of {services} services with limits / what the limits dictate"
    return report(words, ratio, "at most 1.3", ratio <= 1.3 and whole, f"{took:.1f} s and {dictated:.0f} s, {answered:,} answers")
