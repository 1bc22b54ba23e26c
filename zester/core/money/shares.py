"""An amount shared out to the cent: nothing is lost and nothing made.

Largest remainder (Hamilton 1792): everybody gets their share rounded down, the cents left over go where most was cut
off. Of all ways to share whole cents no other has a smaller sum of what is off.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction

CENT = Decimal("0.01")


def cents(amount: Fraction | Decimal | int) -> Decimal:
    """Rounded to the cent, half up; once, at the end of a sum."""
    hundredths = Fraction(amount) * 100
    whole = (abs(hundredths) + Fraction(1, 2)).__floor__()
    return (Decimal(whole if hundredths >= 0 else -whole) * CENT).quantize(CENT)


def share_out(total: Decimal, weights: Sequence[int | Fraction]) -> list[Decimal]:
    """The total, in whole cents, shared out by the weights; the first get what is equal.

    Raises
    ------
    ValueError
        If a weight is below nothing, or all are nothing and there is something to share out.
    """
    if any(weight < 0 for weight in weights):
        raise ValueError("a weight below nothing")
    whole, of = int(total / CENT), sum(weights)
    if not of:
        if whole:
            raise ValueError("nobody to share it out to")
        return [Decimal("0.00")] * len(weights)
    exact = [Fraction(whole) * weight / of for weight in weights]
    parts = [share.__floor__() for share in exact]
    left = whole - sum(parts)
    order = sorted(range(len(weights)), key=lambda at: (parts[at] - exact[at], at))
    for at in order[:left]:
        parts[at] += 1
    return [(part * CENT).quantize(CENT) for part in parts]
