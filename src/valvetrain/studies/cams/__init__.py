"""Cams: how they become known, and what they do."""
