"""Logbook."""
