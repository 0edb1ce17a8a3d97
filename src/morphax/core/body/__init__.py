"""Bodies: rings, joints, ends, skin, checks, and the sweep that puts them together."""
