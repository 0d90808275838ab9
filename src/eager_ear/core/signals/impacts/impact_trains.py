"""Impacts in even steps: a train that has a rate of its own, found without knowing what it keeps time with.

Two models are compared for the moments at which impacts were heard. One has a train, each step about as long as the one
before, or twice or three times as long where impacts were missed, among impacts at random; the other has nothing but
impacts at random. The likelihood is summed over every choice of those that belong to the train, by a forward pass over
pairs of neighbours (hidden semi-Markov model: Yu, Artificial Intelligence 174(2), 2010). The ratio of both, with the
rate of the random ones at its best in the denominator, exceeds x by chance in less than one case of x (e-values: Vovk &
Wang, Ann. Statist. 49(3), 2021).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.units import FloatArray, IntArray

# A step is as long as the one before, or double or triple where impacts were missed, with these chances.
STEPS = np.array([1, 2, 3])
STEP_CHANCES = np.array([0.8, 0.15, 0.05])
# Mostly the rate holds, within the jitter of a loose part; it changes as in a ramp, or at once from tumbling to twice
# as fast (shares, log scale).
CHANGES = ((0.6, 0.06), (0.25, 0.25), (0.15, 0.7))
# Steps of a train [s] between neighbours, and the chance that an impact was its last.
STEP_RANGE_S = (0.12, 3.0)
LONGEST_STEP_S = 4.5
END_CHANCE = 0.05
# Impacts at random among those of a train [1/s]: hardly any, or as many.
EXTRAS_PER_S = (0.05, 0.5)
FEWEST_IMPACTS = 6
# More than this is a rattle, and not a train that anybody would count; longer stretches are looked at in parts.
MOST_PER_S = 8.0
MOST_IMPACTS = 320
MOST_NEIGHBOURS = 40
# Beginnings so much less likely than the likeliest one to the same impact are not carried on.
NEGLIGIBLE = 1e-6


@dataclass(frozen=True, kw_only=True)
class ImpactTrain:
    """The likeliest train among impacts.

    t_s : array [shape=(n,), s]; steps : array [shape=(n - 1,)], periods between neighbours, 2 or 3 where some were
        missed
    evidence : how many times likelier than impacts at random
    """

    t_s: FloatArray
    steps: IntArray
    evidence: float

    @property
    def rate_hz(self) -> FloatArray:
        """Impacts a second between neighbours [shape=(n - 1,)]."""
        return np.asarray(self.steps / np.diff(self.t_s))

    @property
    def middle_s(self) -> FloatArray:
        """When `rate_hz` holds [shape=(n - 1,), s]."""
        return np.asarray(0.5 * (self.t_s[1:] + self.t_s[:-1]))


def find_train(t_s: FloatArray, *, seconds: float) -> ImpactTrain | None:
    """The train among impacts at `t_s` [shape=(n,), s, rising] heard in a stretch of so many seconds.

    None with fewer than six impacts, more than eight a second or more than 320.
    """
    if not FEWEST_IMPACTS <= t_s.size <= min(MOST_PER_S * seconds, MOST_IMPACTS):
        return None
    tried = [_forward(t_s, seconds, extras_per_s=extras) for extras in EXTRAS_PER_S]
    _, members, steps = max(tried, key=lambda found: found[0])
    evidence = float(np.mean([ratio for ratio, _, _ in tried]))
    return ImpactTrain(t_s=t_s[members], steps=steps, evidence=evidence) if members.size > 2 else None


def _forward(t_s: FloatArray, seconds: float, *, extras_per_s: float) -> tuple[float, IntArray, IntArray]:
    """Likelihood ratio against impacts at random, and the likeliest train: its impacts and the periods between them.

    `total[j, d, k]` is the ratio so far of all trains whose last impact is j and whose last but one lies d + 1 impacts
    before, with k + 1 periods between; `best` and `back` belong to the likeliest of them.
    """
    n = t_s.size
    random_per_s = n / seconds
    extra = extras_per_s / random_per_s
    width = min(MOST_NEIGHBOURS, n - 1)
    total = np.zeros((n, width, STEPS.size))
    best = np.zeros_like(total)
    back = np.full(total.shape, -1)
    log_span = np.log(STEP_RANGE_S[1] / STEP_RANGE_S[0])
    for i in range(n - 1):
        after = np.arange(i + 1, min(i + 1 + width, n))
        step_s = t_s[after] - t_s[i]
        after, step_s = after[step_s < LONGEST_STEP_S], step_s[step_s < LONGEST_STEP_S]
        if after.size == 0:
            continue
        apart = after - i - 1
        missed = extra**apart
        may_begin = (step_s > STEP_RANGE_S[0]) & (step_s < STEP_RANGE_S[1])
        begin = np.where(may_begin, extra**i / (seconds * step_s * log_span * random_per_s**2), 0.0) * missed
        total[after, apart, 0] += begin
        before = _worth_carrying_on(total[i])
        if before.size:
            behind, periods = np.divmod(before, STEPS.size)
            period_s = (t_s[i] - t_s[i - 1 - behind]) / STEPS[periods]
            likely = _step_density(step_s, period_s) * (1.0 - END_CHANCE) / random_per_s * missed[:, None]
            total[after, apart] += np.tensordot(total[i].ravel()[before], likely, axes=1)
            options = best[i].ravel()[before, None, None] * likely
            chosen = options.argmax(axis=0)
            back[after, apart] = before[chosen]
            best[after, apart] = np.take_along_axis(options, chosen[None], axis=0)[0]
        fresh = begin > best[after, apart, 0]
        best[after[fresh], apart[fresh], 0] = begin[fresh]
        back[after[fresh], apart[fresh], 0] = -1
    left_over = extra ** np.arange(n - 1, -1, -1)
    ratio = float((total.sum(axis=(1, 2)) * left_over).sum()) * END_CHANCE * np.exp(n - extras_per_s * seconds)
    members, steps = _walk_back(best * left_over[:, None, None], back)
    return ratio, members, steps


def _worth_carrying_on(total: FloatArray) -> IntArray:
    """Places in the flattened totals of one impact."""
    flat = total.ravel()
    return np.flatnonzero(flat > NEGLIGIBLE * flat.max())


def _step_density(step_s: FloatArray, period_s: FloatArray) -> FloatArray:
    """Density of a step after each period [shape=(before, after, 3), 1/s]."""
    usable = (period_s > STEP_RANGE_S[0]) & (period_s < STEP_RANGE_S[1])
    off = np.log(step_s)[:, None] - np.log(STEPS) - np.log(period_s)[:, None, None]
    density = sum(share * np.exp(-0.5 * (off / scale) ** 2) / scale for share, scale in CHANGES)
    density = density * STEP_CHANCES / np.sqrt(2 * np.pi) / step_s[:, None]
    return np.asarray(density * usable[:, None, None])


def _walk_back(best: FloatArray, back: IntArray) -> tuple[IntArray, IntArray]:
    if not best.any():
        return np.zeros(0, dtype=int), np.zeros(0, dtype=int)
    last, apart, missed = (int(k) for k in np.unravel_index(best.argmax(), best.shape))
    members, steps = [last], []
    while True:
        before = last - apart - 1
        members.append(before)
        steps.append(int(STEPS[missed]))
        chosen = int(back[last, apart, missed])
        if chosen < 0:
            return np.array(members[::-1]), np.array(steps[::-1])
        last = before
        apart, missed = divmod(chosen, STEPS.size)
