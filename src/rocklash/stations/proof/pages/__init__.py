"""What the pages of Proof show."""
