"""Numbers as text that people read on the stage."""


def number_text(value: float, decimals: int = -1, thousands: str = "", plus: bool = False, point: str = ".") -> str:
    """A number with so many decimals (−1: as many as it needs, at most six), a true minus sign, and no −0."""
    shown = f"{abs(value):,.{6 if decimals < 0 else decimals}f}"
    if decimals < 0 and "." in shown:
        shown = shown.rstrip("0").rstrip(".")
    zero = not any(digit in shown for digit in "123456789")
    sign = "" if zero else "−" if value < 0 else "+" if plus else ""
    whole, dot, rest = shown.partition(".")
    return sign + whole.replace(",", thousands) + (point + rest if dot else "")
