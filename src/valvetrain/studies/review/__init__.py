"""Everything of a build in one result."""
