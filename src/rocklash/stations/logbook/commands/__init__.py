"""What changes a logbook."""
