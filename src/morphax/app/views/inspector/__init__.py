"""The inspector: the card of what is chosen and folding headings in the order of work."""
