"""The order in which screws on a circle are drawn, so that what they hold comes down evenly."""

from __future__ import annotations

from eager_ear.core.errors import BadField

MOST = 200


def opposite_order(count: int) -> tuple[int, ...]:
    """Positions 0 to `count`-1, clockwise from the top, in the order of tightening.

    Starts at 0; next is the position farthest by circular distance from all those done; ties go to the one farthest
    from the last done, then to the lowest number. Holds for any count, odd ones too.

    Raises
    ------
    BadField
        `count` is outside 1 to 200.

    >>> opposite_order(6)
    (0, 3, 1, 4, 2, 5)
    >>> opposite_order(5)
    (0, 2, 4, 1, 3)
    """
    if not 1 <= count <= MOST:
        raise BadField(field="count", reason=f"{count} is outside 1 to {MOST} screws.")
    done = [0]
    left = list(range(1, count))

    def apart(one: int, other: int) -> int:
        steps = abs(one - other)
        return min(steps, count - steps)

    while left:
        following = max(left, key=lambda p: (min(apart(p, d) for d in done), apart(p, done[-1]), -p))
        done.append(following)
        left.remove(following)
    return tuple(done)
