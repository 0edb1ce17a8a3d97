"""Tools: small state machines that turn mouse and key events into edits. No Qt here."""
