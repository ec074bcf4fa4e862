"""The examples in the docstrings of the server run."""

import doctest
import importlib
import unittest
from pathlib import Path

SERVER = Path(__file__).resolve().parents[2]


class Examples(unittest.TestCase):
    def test_every_example(self) -> None:
        tried = 0
        for file in sorted(SERVER.rglob("*.py")):
            if ">>> " not in file.read_text() or "tests" in file.parts or file.name == Path(__file__).name:
                continue
            name = ".".join(file.relative_to(SERVER).with_suffix("").parts)
            with self.subTest(name):
                found = doctest.testmod(importlib.import_module(name))
                self.assertEqual(found.failed, 0)
                tried += found.attempted
        self.assertGreater(tried, 10)
