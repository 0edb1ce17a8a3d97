"""The length strip."""
