"""What follows from something else: the order of it, and one pure step for each; walked by window and builder alike."""
