"""What the logbook shows of a whole workshop."""
