"""The site."""

__version__ = "0.2.0"
