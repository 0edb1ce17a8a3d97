"""Meshes: the value, measures, triangles from files, edges and ports on them."""
