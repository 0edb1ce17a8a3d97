"""Geometry only: paths, frames, sections, rings, skin, measures, checks; may import NumPy, shapely and manifold3d."""
