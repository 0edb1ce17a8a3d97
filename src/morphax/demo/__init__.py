"""The demo project, the Lantern Wagon, and the practice table; may import project."""

from morphax.demo.practice import practice_table
from morphax.demo.thousands import many_runs
from morphax.demo.wagon import lantern_wagon

__all__ = ["lantern_wagon", "many_runs", "practice_table"]
