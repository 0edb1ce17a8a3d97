"""Views: what shows the document and takes the pointer."""
