"""Numbers as texts: JSON knows no infinity and no NaN, and these give the very same numbers."""

from collections.abc import Sequence


def as_text(numbers: Sequence[float]) -> list[str]:
    return [repr(float(number)) for number in numbers]


def of_text(texts: Sequence[str]) -> list[float]:
    return [float(text) for text in texts]
