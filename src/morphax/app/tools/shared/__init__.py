"""What tools share: the pointer, landing, picking, catching, typing."""
