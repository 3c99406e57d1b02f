"""What springs must do, bear, and were measured to do."""
