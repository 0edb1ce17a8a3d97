"""Benchmarks: named cases, set-up apart from the timed part, ratios side by side in one process."""
