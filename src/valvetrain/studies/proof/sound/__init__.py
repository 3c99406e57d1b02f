"""The ear on a pull: speed over time, where it broke, how it gave up, with doubt."""
