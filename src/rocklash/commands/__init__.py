"""Every change of a record: permission, lock, consistency and journal in one place."""
