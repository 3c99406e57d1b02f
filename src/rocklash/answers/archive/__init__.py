"""A build, or a whole workshop, as one zip of open JSON and files; out and in again it is the same, byte for byte.

`tables` says what belongs to it, `writing` writes it, `reading` reads and checks it without touching a row, `keeping` makes rows of what was read.
Rows are numbered from 1 in each table, so that a file tells nothing of the database it came from. People stand in it by name alone.
"""
