"""The time bar: what moves with time, played and scrubbed."""
