"""Pure functions of SI floats and arrays, one physical topic a file.

Each docstring gives the equation, the range (enforced aloud), an example that runs, and a source key.
"""
