"""The call: suspects with their evidence, what to do next, and the sentence that says so.

The advice follows the sum of `decision.py`, whatever costs least in expectation, within rules of the trade:

1. nothing was measured, and no check would carry a decision  -> record_again
2. a check costs less than opening or leaving                  -> check_more
   a spin test that was not recorded yet does                    -> record_again
3. opening costs least, but a look comes first by rule, or only the story speaks for it -> check_more
4. opening costs least, by a recording that was rejected        -> record_again
5. opening costs least                                         -> commit
6. leaving it closed costs least                               -> no_teardown
7. handing it on costs least: nothing that is left makes it clear -> check_more
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from eager_ear.core.case import Case
from eager_ear.core.cost import Shop, stakes_of
from eager_ear.core.diagnosis.decision import Choice, Decision, decide
from eager_ear.core.diagnosis.evidence import (
    ENERGISED,
    HUMS,
    SOUND_READERS,
    Reading,
    Shown,
    bounce_readings,
    corner_readings,
    hand_readings,
    one_hum,
    story_readings,
)
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.diagnosis.next_check import NextCheck, next_checks
from eager_ear.core.diagnosis.posterior import Posterior, Pull, hypotheses_for, infer
from eager_ear.core.diagnosis.stages import stage_chances
from eager_ear.core.signals.mechanics import BounceDecay, CornerComparison
from eager_ear.core.signals.recordings import Warning
from eager_ear.core.units import percent

# With nothing heard or felt yet, a check is asked for before a recording where it takes off this much of the loss.
MUCH_OF_THE_LOSS = 0.33
# A machine is not opened on hearsay: what was heard or felt must speak for it by at least two to one.
LEAST_OWN_SUPPORT_DB = 3.0
CONTRADICTION_DB = -6.0
SHOWN_DB = 0.05


@dataclass(frozen=True, kw_only=True)
class Suspect:
    """One fault with its odds. stages : where it has any, the chance of each if it is there"""

    fault: str
    name: str
    short: str
    probability: float
    prior_db: float
    stages: Mapping[str, float]
    pulls: tuple[Pull, ...]

    @property
    def stage(self) -> str | None:
        """The likeliest stage, None where the fault has none."""
        return max(self.stages, key=self.stages.__getitem__, default=None)


@dataclass(frozen=True, kw_only=True)
class Call:
    suspects: tuple[Suspect, ...]
    readings: tuple[Reading, ...]
    next_checks: tuple[NextCheck, ...]
    advice: str
    headline: str
    because: str
    warnings: tuple[Warning, ...]
    decision: Decision


def make_call(
    case: Case,
    *,
    knowledge: Knowledge,
    shown: Sequence[Shown] = (),
    bounces: Sequence[BounceDecay] = (),
    corners: CornerComparison | None = None,
    set_aside: Collection[str] = (),
    shop: Shop | None = None,
    assumed: Sequence[Reading] = (),
) -> Call:
    """Weigh everything known about the case.

    Recordings of an energised machine that was to move are asked for its hum only. With several spins the one that
    shows most gives the sound readings; empty-drum runs come first, since a load shakes a sound machine as well.
    Findings that were `set_aside` do not count; those `assumed` count as if they had been read.
    """
    spins = [s for s in shown if s.test == "spin"]
    lead = leading_run(spins)
    readings: list[Reading] = []
    if lead is not None:
        readings += [r for r in lead.readings(knowledge.findings) if r.finding.code not in HUMS]
    energised = [s for s in shown if s.test in ENERGISED or s is lead]
    rooms = [room for s in shown for room in s.rooms]
    readings += one_hum(energised, rooms=rooms, findings=knowledge.findings)
    readings += bounce_readings(bounces, findings=knowledge.findings)
    readings += corner_readings(corners, findings=knowledge.findings)
    readings += hand_readings(case.checks, findings=knowledge.findings, layout=case.machine.layout)
    readings += story_readings(case.symptoms, knowledge=knowledge)
    layout = case.machine.layout
    instead = {r.finding.code for r in assumed}
    readings = [*(r for r in readings if r.finding.code not in instead), *assumed]
    readings = [r for r in readings if r.finding.code not in set_aside and layout in r.finding.layouts]
    posterior = infer(readings, hypotheses=hypotheses_for(layout, knowledge=knowledge))
    done = {check.check for check in case.checks}
    checks = next_checks(posterior, layout=layout, done=done, knowledge=knowledge)
    stages = stage_chances(
        knowledge.stages,
        readings=readings,
        symptoms=[s for s in case.symptoms if f"symptom_{s}" not in set_aside],
        measured=_of_the_stage(lead, set_aside) if lead is not None else {},
    )
    suspects = _suspects(posterior, stages, knowledge)
    measured = bool(case.checks) or any(s.turning or s.heard for s in (*spins, *energised))
    faults = tuple(f.code for f in knowledge.faults_of(layout))
    stakes = stakes_of(layout, repair=knowledge.repair, shop=shop or Shop(), faults=faults)
    rejected = next((w for w in lead.warnings if w.rejects), None) if lead is not None else None
    heard = lead is not None and rejected is None
    decision = decide(
        posterior,
        layout=layout,
        done=done,
        knowledge=knowledge,
        stakes=stakes,
        to_be_heard=() if heard else tuple(SOUND_READERS),
    )
    advice = _advice(decision, suspects, measured=measured, rejected=rejected is not None)
    checks = _in_the_order_of(decision, checks)
    return Call(
        suspects=suspects,
        readings=tuple(readings),
        next_checks=checks,
        advice=advice,
        headline=_headline(suspects, advice, checks, decision, rejected=rejected),
        because=_because(suspects[0]),
        warnings=tuple(_contradictions(suspects[0])),
        decision=decision,
    )


def _of_the_stage(run: Shown, set_aside: Collection[str]) -> dict[str, float | None]:
    """What a run shows of nothing but how far a bearing has gone, as far as nobody has set it aside."""
    clear = None if "race_lines" in set_aside else run.race_ratio_db
    return {"race_clear": clear, "level_scatter": run.level_scatter}


def leading_run(runs: Sequence[Shown]) -> Shown | None:
    """The run that shows most: turning seen, drum empty, most quantities measured."""
    if not runs:
        return None
    return max(
        runs,
        key=lambda r: (r.turning, r.load in (None, "empty"), -len(r.absent), r.duration_s),
    )


def _suspects(posterior: Posterior, stages: Mapping[str, float], knowledge: Knowledge) -> tuple[Suspect, ...]:
    out = [
        Suspect(
            fault=code,
            name=knowledge.faults[code].name,
            short=knowledge.faults[code].short,
            probability=probability,
            prior_db=posterior.prior_db[code],
            stages=stages if code in knowledge.stages.faults else {},
            pulls=tuple(p for p in posterior.pulls[code] if abs(p.decibans) >= SHOWN_DB),
        )
        for code, probability in posterior.marginal.items()
    ]
    return tuple(sorted(out, key=lambda s: -s.probability))


def _advice(decision: Decision, suspects: Sequence[Suspect], *, measured: bool, rejected: bool) -> str:
    best = decision.choices[0]
    if not measured and not _is_worth_much(best, decision):
        return "record_again"
    if best.action == "record" and not decision.first:
        return "record_again"
    if best.action in ("check", "record", "refer") or (best.action == "open" and decision.first):
        return "check_more"
    if best.action in ("leave", "see_to"):
        return "no_teardown"
    opened_for = next(s for s in suspects if s.fault == best.fault)
    if _own_support_db(opened_for) < LEAST_OWN_SUPPORT_DB:
        return "check_more"
    if rejected and _own_support_db(opened_for, without="sound") < LEAST_OWN_SUPPORT_DB:
        return "record_again"
    return "commit"


def _is_worth_much(best: Choice, decision: Decision) -> bool:
    """Whether the cheapest thing to do is a check that nearly decides by itself."""
    without = min(c.lost_min for c in decision.choices if c.action in ("open", "see_to", "leave"))
    return best.action == "check" and best.lost_min <= (1.0 - MUCH_OF_THE_LOSS) * without


def _in_the_order_of(decision: Decision, checks: Sequence[NextCheck]) -> tuple[NextCheck, ...]:
    """The checks as the sum ranks them: what comes first by rule, what is worth its minutes, then what tells most."""
    ranked = [*decision.first, *(c.check for c in decision.choices if c.check is not None)]
    place = {code: k for k, code in reversed(list(enumerate(ranked)))}
    return tuple(sorted(checks, key=lambda c: place.get(c.check, len(ranked))))


def _own_support_db(suspect: Suspect, *, without: str = "story") -> float:
    """What was heard and felt says for it, without the customer's story, and without another source if wished."""
    return sum(p.decibans for p in suspect.pulls if p.reading.source not in ("story", without))


STAGE_WORDS = {"whine": "whining", "growl": "growling", "collapsed": "collapsed"}
ACCESS_WORDS = {
    "outside": "nothing opened",
    "lid": "lid or door open, machine unplugged",
    "panel": "a cover off, machine unplugged",
    "meter": "panel off and a meter, machine unplugged",
    "part": "one part unbolted, machine unplugged",
}


def _headline(
    suspects: Sequence[Suspect],
    advice: str,
    checks: Sequence[NextCheck],
    decision: Decision,
    *,
    rejected: Warning | None,
) -> str:
    leader = suspects[0]
    who = f"{leader.name}, {STAGE_WORDS[leader.stage]}" if leader.stage else leader.name
    who = f"{who}: {percent(leader.probability)}."
    second = next((s for s in suspects[1:] if s.fault != "none"), None)
    if advice == "commit":
        return f"{who} Take it apart for this."
    if advice == "no_teardown":
        return f"{who} Nothing that a teardown would mend."
    if advice == "record_again" and rejected is not None and decision.choices[0].action == "open":
        return f"{who} Record it again before anything is opened: {rejected.message[0].lower()}{rejected.message[1:]}"
    if advice == "record_again" and decision.choices[0].action == "record" and leader.fault != "none":
        return f"{who} Next: record a spin test from rest to rest."
    if advice == "record_again":
        return "Not enough to go on. Record a spin test from rest to rest."
    if decision.choices[0].action == "refer":
        return f"{who} Not sure enough to open the machine, and no check pays: hand it on, or go on checking."
    if not checks:
        return f"{who} Not sure enough to open the machine."
    name = checks[0].name
    then = f"Next: {name[0].lower()}{name[1:]}"
    if decision.first and checks[0].check == decision.first[0]:
        return f"{who} {then}, before anything is opened."
    between = ""
    if second is not None and second.probability > 0.1 and second.fault != leader.fault:
        between = f", to tell {leader.short.lower()} from {second.short.lower()}"
    return f"{who} {then}{between}."


def _because(leader: Suspect) -> str:
    for_it = [p for p in leader.pulls if p.decibans > 1.0][:2]
    against = next((p for p in leader.pulls if p.decibans < -1.0), None)
    parts = []
    if for_it:
        first = " and ".join(p.reading.text for p in for_it)
        parts.append(f"{first[0].upper()}{first[1:]}.")
    if against is not None:
        parts.append(f"Against it: {against.reading.text}.")
    return " ".join(parts) if parts else "No single finding decides."


def _contradictions(leader: Suspect) -> list[Warning]:
    if leader.fault == "none" or leader.probability <= 0.5:
        return []
    out = []
    for against in (p for p in leader.pulls if p.decibans <= CONTRADICTION_DB):
        message = (
            f"“{against.reading.text}” speaks against {leader.short.lower()} by {-against.decibans:.0f} decibans: "
            "measure that again before you open the machine."
        )
        # Where hand and ear disagree either may be wrong.
        other = next((p for p in leader.pulls if p.decibans >= -CONTRADICTION_DB and _other_way(p, against)), None)
        if other is not None:
            message = (
                f"“{against.reading.text}” speaks against {leader.short.lower()} by {-against.decibans:.0f} decibans, "
                f"“{other.reading.text}” for it by {other.decibans:.0f}: measure both again before you open it."
            )
        out.append(Warning(code="contradiction", message=message))
    return out


def _other_way(one: Pull, other: Pull) -> bool:
    """Whether two readings came about by different ways: by hand, by ear, by what was told."""
    return one.reading.source != other.reading.source
