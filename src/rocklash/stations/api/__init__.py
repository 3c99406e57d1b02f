"""Read-only records for machines."""
