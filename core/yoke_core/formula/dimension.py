"""Physical dimensions as powers of SI base units."""

from dataclasses import dataclass
from fractions import Fraction

BASE = ("m", "kg", "s", "A", "K")


@dataclass(frozen=True, slots=True)
class Dimension:
    """Powers of metre, kilogram, second, ampere and kelvin; angles and strains have none.

    Examples
    --------
    >>> force = Dimension.of(m=1, kg=1, s=-2)
    >>> str(force / Dimension.of(m=2)), str((force / force))
    ('kg/(m s²)', '1')
    """

    powers: tuple[Fraction, ...] = (Fraction(0),) * len(BASE)

    @classmethod
    def of(cls, **powers: int) -> "Dimension":
        """By name: ``Dimension.of(m=1, s=-1)`` is a speed."""
        return cls(tuple(Fraction(powers.get(name, 0)) for name in BASE))

    def __mul__(self, other: "Dimension") -> "Dimension":
        return Dimension(tuple(a + b for a, b in zip(self.powers, other.powers, strict=True)))

    def __truediv__(self, other: "Dimension") -> "Dimension":
        return self * other ** Fraction(-1)

    def __pow__(self, exponent: Fraction) -> "Dimension":
        return Dimension(tuple(p * exponent for p in self.powers))

    @property
    def is_none(self) -> bool:
        return not any(self.powers)

    def __str__(self) -> str:
        over = [_power(n, p) for n, p in zip(BASE, self.powers, strict=True) if p > 0]
        under = [_power(n, -p) for n, p in zip(BASE, self.powers, strict=True) if p < 0]
        if not under:
            return " ".join(over) or "1"
        below = under[0] if len(under) == 1 else f"({' '.join(under)})"
        return f"{' '.join(over) or '1'}/{below}"


RAISED = str.maketrans("0123456789/", "⁰¹²³⁴⁵⁶⁷⁸⁹ᐟ")


def _power(name: str, power: Fraction) -> str:
    return name if power == 1 else name + str(power).translate(RAISED)


NONE = Dimension()
TIME = Dimension.of(s=1)
FREQUENCY = Dimension.of(s=-1)
STRESS = Dimension.of(m=-1, kg=1, s=-2)
