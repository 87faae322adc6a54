"""The examples in the docstrings run."""

import doctest
import importlib
import pkgutil
import unittest

import numpy as np

PACKAGES = ("nomothet.core", "nomothet.formats", "nomothet.bench")


def load_tests(loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None) -> unittest.TestSuite:
    for package in PACKAGES:
        module = importlib.import_module(package)
        for found in pkgutil.walk_packages(module.__path__, package + "."):
            example = importlib.import_module(found.name)
            tests.addTests(doctest.DocTestSuite(example, extraglobs={"np": np}))
    return tests
