"""The one exception tree of the core: every message is a sentence for a person."""

from valvetrain.units import UnitSystem, told


class ValveTrainError(Exception):
    """Root of everything the core raises on purpose. `str` prints its amounts in metric units, `told` in the reader's."""

    def __str__(self) -> str:
        return told(super().__str__())

    def told(self, system: UnitSystem) -> str:
        """The sentence in the reader's units."""
        return told(super().__str__(), system)

    @property
    def sentence(self) -> str:
        """The sentence as it stands, with its amounts in SI, to be told later."""
        return super().__str__()


class QuantityError(ValveTrainError):
    """What was typed is not a quantity of the kind the field asks for."""


class OutOfRangeError(ValveTrainError):
    """A formula was called outside the range in which it holds."""


class ContradictionError(ValveTrainError):
    """The given figures cannot all be true at once."""


class BuildFileError(ValveTrainError):
    """A build file cannot be read; the message names the place and the trouble."""


class StoppedError(Exception):
    """Somebody asked for a long computation to end before it was through."""
