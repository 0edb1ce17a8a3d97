"""Loops over places, rings and points, compiled to machine code by Numba and kept on disk.

Each module holds loops of one stage and, for each, the function that calls it with arrays of any layout and any
leading batch axes. Loops know nothing of the rest of the core; a stage's meaning is documented where it is called.
"""
