"""The invented scenario, and what loads it."""
