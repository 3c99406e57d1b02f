"""A job: which steps apply to an engine and its work, in which order, with what is out and must go in again."""
