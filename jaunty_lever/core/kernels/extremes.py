"""Changes against the last extreme: the kernel behind the check for flashing."""

from .compiled import Filled, Floats, kernel


@kernel
def changes(light: Floats, large: float, dark: float, found: Filled) -> None:
    """found[k, c] = +1 or −1 where light (frames, cells) has changed by `large` since its last extreme, the darker
    below `dark`."""
    frames, cells = light.shape
    for c in range(cells):
        low = high = light[0, c]
        way = 0
        for k in range(1, frames):
            now = light[k, c]
            # Up: far enough above the lowest since the last change, which was dark enough; down likewise.
            if way <= 0 and now - low >= large and low < dark:
                way, found[k, c] = 1, 1
                low = high = now
            elif way >= 0 and high - now >= large and now < dark:
                way, found[k, c] = -1, -1
                low = high = now
            else:
                low, high = min(low, now), max(high, now)
