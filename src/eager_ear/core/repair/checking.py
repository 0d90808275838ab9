"""Whether the repairs fit together: what is named exists, every goal can be reached, nothing waits for itself."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping

from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.machine.places import PLACES
from eager_ear.core.repair.guides import guide_misfits
from eager_ear.core.repair.needs import VARIANTS, Need
from eager_ear.core.repair.records import Path, Repair, Step
from eager_ear.core.repair.stock import stock_misfits

_CONDITIONS = {*LAYOUT_CODES, "alone", "stacked", *(code for group in VARIANTS.values() for code in group)}


def misfits(
    repair: Repair,
    *,
    faults: Mapping[str, Collection[str]],
    looks: Collection[str],
    checks: Collection[str],
    symptoms: Collection[str],
) -> tuple[str, ...]:
    """Everything that does not fit, as sentences; empty when all of it does.

    Parameters
    ----------
    faults : every fault with the layouts that can have it
    looks : parts that can be looked at
    checks, symptoms : that a row of the component test may stand for
    """
    return (
        *_unmended(repair, faults),
        *(text for path in repair.paths.values() for text in _path(repair, path, faults)),
        *(text for layout in LAYOUT_CODES for text in _layout(repair, layout, looks)),
        *_loose_words(repair),
        *guide_misfits(repair.guides, faults=faults, checks=checks, symptoms=symptoms),
        *stock_misfits(repair.stock, parts=repair.parts, symptoms=symptoms),
    )


def _unmended(repair: Repair, faults: Mapping[str, Collection[str]]) -> Iterator[str]:
    for fault, layouts in faults.items():
        if fault not in repair.advice:
            yield f"nothing is told to the customer of {fault}"
        for layout in layouts:
            if not repair.paths_of(fault, layout=layout):
                yield f"no path mends {fault} of {layout}"


def _path(repair: Repair, path: Path, faults: Mapping[str, Collection[str]]) -> Iterator[str]:
    def unknown(what: str, codes: Collection[str], known: Collection[str]) -> Iterator[str]:
        for code in sorted(set(codes) - set(known)):
            yield f"path {path.id} names the unknown {what} {code}"

    yield from unknown("fault", path.faults, faults)
    yield from unknown("part", (*path.parts, *path.optional_parts), repair.parts)
    yield from unknown("consumable", path.consumables, repair.consumables)
    yield from unknown("tool", [code for need in path.tools for code in need.steps], repair.tools)
    yield from unknown("posture", path.postures, repair.postures)
    yield from unknown("proof", [code.removesuffix("?") for code in path.proofs], repair.proofs)
    yield from unknown("follow-up", [path.follow_up], repair.follow_ups)
    if path.school:
        school, _, way = path.school.partition("=")
        if school not in repair.schools or way not in [w.code for w in repair.schools[school].ways]:
            yield f"path {path.id} belongs to the unknown school {path.school}"
    for layout in path.layouts:
        steps = repair.steps_of(layout)
        for need in path.goals:
            if need.when in (None, layout) and not set(need.steps) & set(steps):
                yield f"path {path.id} opens {'/'.join(need.steps)}, which {layout} does not have"
        for item in path.fit:
            if item.steps and not set(item.steps) & set(steps):
                yield f"path {path.id} fits {'/'.join(item.steps)}, which {layout} does not have"


def _layout(repair: Repair, layout: str, looks: Collection[str]) -> Iterator[str]:
    steps = repair.steps_of(layout)
    for step in steps.values():
        where = f"step {step.id} of {layout}"
        for need in step.needs:
            if need.when is not None and need.when not in _CONDITIONS:
                yield f"{where} depends on the unknown condition {need.when}"
            if _binds(need, layout) and not set(need.steps) & set(steps):
                yield f"{where} needs {'/'.join(need.steps)}, which {layout} does not have"
        for what, codes, known in (
            ("hazard", step.hazards, repair.hazards),
            ("look", step.looks, looks),
            ("ladder", (step.trouble,) if step.trouble else (), repair.ladders),
            ("posture", (step.posture, *step.not_in) if step.posture else step.not_in, repair.postures),
        ):
            for code in sorted({str(c) for c in codes} - set(known)):
                yield f"{where} names the unknown {what} {code}"
        if step.place not in PLACES:
            yield f"{where} is at the unknown place {step.place}"
        for fasteners in step.fasteners:
            if not fasteners.group.replace("_", "").isalpha():
                yield f"{where} has a group “{fasteners.group}”, which is no code"
        if step.closes is not None and step.closes not in steps:
            yield f"{where} closes {step.closes}, which {layout} does not have"
        if not step.fit and step.minutes_off > 0 and step.minutes_on == 0 and not _needs_no_way_back(step, steps):
            yield f"{where} is opened and has no way back"
    yield from _circles(steps, layout)


def _binds(need: Need, layout: str) -> bool:
    return not need.optional and (need.when is None or need.when not in LAYOUT_CODES or need.when == layout)


def _needs_no_way_back(step: Step, steps: Mapping[str, Step]) -> bool:
    return step.nothing_back or any(other.closes == step.id for other in steps.values())


def _circles(steps: Mapping[str, Step], layout: str) -> Iterator[str]:
    done: set[str] = set()
    path: list[str] = []

    def walk(step_id: str) -> Iterator[str]:
        if step_id in path:
            yield f"steps of {layout} wait for each other: {' → '.join([*path[path.index(step_id) :], step_id])}"
            return
        if step_id in done or step_id not in steps:
            return
        path.append(step_id)
        for need in steps[step_id].needs:
            for other in need.steps:
                yield from walk(other)
        path.pop()
        done.add(step_id)

    for step_id in steps:
        yield from walk(step_id)


def _loose_words(repair: Repair) -> Iterator[str]:
    for part in repair.parts.values():
        if part.look_alike is not None and part.look_alike not in repair.look_alikes:
            yield f"part {part.code} is taken for the unknown look-alike {part.look_alike}"
        if not 0 <= part.typical[0] <= part.typical[1]:
            yield f"part {part.code} costs from {part.typical[0]} to {part.typical[1]}"
    for codes in VARIANTS.values():
        for code in sorted(set(codes) - set(repair.variants)):
            yield f"the variant {code} has no name"
    for path in repair.paths.values():
        if not 0 < path.minutes[0] <= path.minutes[1] or not 0 <= path.callback <= 1:
            yield f"path {path.id} has impossible minutes or chances"
