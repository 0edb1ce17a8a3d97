"""Lofts: sections matched to each other, stations along a path, and laws over its length."""
