"""The one exception tree of the core: every message is a sentence for a person."""


class ValveTrainError(Exception):
    """Root of everything the core raises on purpose."""


class QuantityError(ValveTrainError):
    """What was typed is not a quantity of the kind the field asks for."""


class OutOfRangeError(ValveTrainError):
    """A formula was called outside the range in which it holds."""


class ContradictionError(ValveTrainError):
    """The given figures cannot all be true at once."""


class BuildFileError(ValveTrainError):
    """A build file cannot be read; the message names the place and the trouble."""
