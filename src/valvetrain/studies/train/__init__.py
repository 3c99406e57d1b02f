"""From figures with gaps to a complete valve train."""
