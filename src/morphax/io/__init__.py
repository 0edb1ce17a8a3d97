"""Morphax io; may import core, project and format libraries."""
