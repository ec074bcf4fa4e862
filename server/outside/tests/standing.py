"""A stand-in that runs as long as a test needs it."""

import threading
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import urlencode

from standins.service import StandIn

__all__ = ["running", "switch"]


@contextmanager
def running(server: StandIn) -> Iterator[str]:
    """The address at which a stand-in answers."""
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_port}/"
    finally:
        server.shutdown()
        server.server_close()


def switch(address: str, service: str, mode: str) -> None:
    """Tell a service how to behave by its page, as a person would."""
    told = urlencode({"service": service, "mode": mode}).encode()
    with urllib.request.urlopen(f"{address}switch", told, timeout=5) as page:
        assert f'value="{mode}" checked' in page.read().decode()
