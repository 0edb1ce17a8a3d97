"""Actions: the table of commands and what they do. No Qt widgets here."""
