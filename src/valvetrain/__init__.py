"""The arithmetic and judgement of the valve train, free of any interface.

SI only inside: metres, kilograms, newtons, pascals, radians, seconds.
"""
