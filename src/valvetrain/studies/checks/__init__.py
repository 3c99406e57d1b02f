"""Checks of a set-up, and what would mend them."""
