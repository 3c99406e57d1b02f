"""When an engine is due again: turns counted, damage told as a band or a ratio, rules held against hours and what changed."""
