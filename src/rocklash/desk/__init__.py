"""The HTTP round of a build: who asks, what is loaded, what is answered."""
