"""What is wrong with a formula, and where."""

from yoke_core.errors import CoreError

Place = tuple[int, int]  # from the first character to the one behind the last


class FormulaError(CoreError):
    """A formula that means nothing.

    Attributes
    ----------
    place : (int, int)
        Which characters are at fault.
    proposal : str
        What may stand there instead; empty where there is no proposal.
    """

    def __init__(self, place: Place, message: str, hint: str = "", proposal: str = "") -> None:
        super().__init__("formula", message, hint or (f"Write {proposal}." if proposal else ""))
        self.place = place
        self.proposal = proposal
