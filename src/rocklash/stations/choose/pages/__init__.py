"""What the pages of Choose show."""
