"""Pictures for the documents, made through the real window."""
