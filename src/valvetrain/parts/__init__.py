"""Frozen value objects of the trade: figures, cams, springs, sides, engines, goals, and the record of a build."""
