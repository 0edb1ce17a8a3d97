"""The stock of sections and presets."""
