"""The list of runs and hosts."""
