"""The shelf of a workshop: every part with what it is, costs and has behind it."""
