"""The bench is not run by the suite, but it can be."""

import importlib


def test_the_bench_finds_all_that_it_measures() -> None:
    assert callable(importlib.import_module("benchmarks.run").main)
