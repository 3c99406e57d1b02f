"""Valve clearances: measuring, setting, and how they move over the hours."""
