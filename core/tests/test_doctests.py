"""The examples in the docstrings of the package run."""

import doctest
import importlib
import pkgutil
import unittest

import tally_core


def load_tests(loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None) -> unittest.TestSuite:
    for module in pkgutil.iter_modules(tally_core.__path__):
        tests.addTests(doctest.DocTestSuite(importlib.import_module(f"tally_core.{module.name}")))
    return tests
