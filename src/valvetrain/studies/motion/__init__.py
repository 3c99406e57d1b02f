"""The valve in motion at speed."""
