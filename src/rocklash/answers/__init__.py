"""Rows to the core and back as results: no HTTP, nothing of pages."""
