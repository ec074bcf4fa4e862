"""The examples in the docstrings of the package run."""

import doctest
import importlib
import pkgutil
import unittest

import tally_core


def load_tests(loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None) -> unittest.TestSuite:
    for module in pkgutil.walk_packages(tally_core.__path__, "tally_core."):
        tests.addTests(doctest.DocTestSuite(importlib.import_module(module.name)))
    return tests
