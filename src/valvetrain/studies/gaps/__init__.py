"""Every gap between moving parts."""
