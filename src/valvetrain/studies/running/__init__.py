"""The engine in use: gearing, over-revs and their inspection."""
