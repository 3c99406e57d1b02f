"""Simulated instruments with hidden true values: they ship so that every way in can be tried without the device."""
