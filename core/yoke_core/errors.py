"""The one family of errors that the core raises."""


class CoreError(ValueError):
    """Something asked of the core has no physical answer.

    Attributes
    ----------
    argument : str
        Name of the argument at fault, so that a form can mark its field.
    hint : str
        What to do about it.
    """

    def __init__(self, argument: str, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.argument = argument
        self.hint = hint


class ScalingError(CoreError):
    """A scaling cannot turn its signal into a quantity."""


class TensionError(CoreError):
    """A tension result cannot be computed from what was given."""


class RosetteError(CoreError):
    """A rosette's strains cannot be computed from what was given."""


class FatigueError(CoreError):
    """Cycles or life cannot be computed from what was given."""


class SignalError(CoreError):
    """A signal cannot be computed from what was given."""


class UncertaintyError(CoreError):
    """An uncertainty cannot be computed from what was given."""


class CalibrationError(CoreError):
    """A calibration cannot be evaluated from what was given."""


class TableError(CoreError):
    """A table in a text file cannot be taken as it is; ``line`` at fault, if any, counts from 1."""

    def __init__(self, message: str, hint: str, line: int | None = None) -> None:
        super().__init__("file", message, hint)
        self.line = line


class LoadingError(CoreError):
    """A force history cannot be made of what was given."""


class SummaryError(CoreError):
    """A stretch of samples has no statistics, or no spectrum."""
