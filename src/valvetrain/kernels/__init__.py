"""Compiled inner loops: plain arrays in, plain arrays out, no rules of the trade."""
