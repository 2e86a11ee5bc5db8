"""What something lacks to be of use."""

from typing import NamedTuple


class Lack(NamedTuple):
    """What is missing or wrong, and what to do."""

    text: str
    hint: str
