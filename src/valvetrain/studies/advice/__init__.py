"""Advice on materials, form and treatment: rules as data, claims answered with a figure, and schools that differ."""
