"""Puts small faults into the program, one at a time, and sees whether its tests notice."""
