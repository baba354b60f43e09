"""Numbers as people read them."""

from decimal import ROUND_HALF_UP, Decimal

_EXACT = 1e15


def plain_number(value: float, digits: int = 4) -> str:
    """A number for people: at most `digits` places, no trailing zeros, a true minus sign."""
    # Halves are rounded away from 0, as people do it and as the pages' scripts do.
    exact = abs(value) < _EXACT
    text = f"{Decimal(value).quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP) if exact else value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return text.replace("-", "−") if text not in ("-0", "0") else "0"
