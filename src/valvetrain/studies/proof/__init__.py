"""What the engine did: compression, leak-down, sound, dyno, and what the result teaches."""
