"""Changes of the Proof station."""
