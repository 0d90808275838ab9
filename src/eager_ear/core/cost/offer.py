"""What can be put to a customer: every way to mend it, waiting, replacing, scrapping, each with its whole sum.

An option's cost a year is its total, plus what it is expected to cost on top, plus the days without a washer, over the
years that it buys. Expected on top: chance of a wrong call x (parts that do not go back + the teardown), and chance of
a call-back x another visit. Repairs above the share rule's limit stand behind those below it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from eager_ear.core.cost.counting import Counter
from eager_ear.core.cost.options import Kind, Offer, Option, Price, Question
from eager_ear.core.cost.share import ShareRule, share_rule
from eager_ear.core.cost.shop import Shop
from eager_ear.core.repair import Path, Repair

# Below this chance a fault is not mended on suspicion.
LEAST_CHANCE = 0.5


def make_offer(question: Question, *, shop: Shop, prices: Mapping[str, Price], repair: Repair) -> Offer:
    """All options for the faults in question, proposed first."""
    counter = Counter(question, shop=shop, prices=prices, repair=repair)
    rule = rule_of(question, shop=shop, counter=counter)
    found = [counter.option(kind, paths, rule) for kind, paths in _choices(question, shop=shop, repair=repair)]
    found += counter.without_repair()
    ranked = tuple(sorted(found, key=_rank))
    proposed = ranked[0]
    return Offer(
        options=ranked,
        rule=rule,
        proposed=proposed.code,
        says=_says(proposed, ranked, rule),
        missing=tuple(dict.fromkeys(line.code for o in ranked for line in o.lines if line.typical)),
    )


def rule_of(question: Question, *, shop: Shop, counter: Counter) -> ShareRule:
    """The shop's share rule for this machine."""
    return share_rule(
        age_years=question.machine.age_years,
        life_years=shop.life_years,
        share=shop.share_percent / 100.0,
        least_share=shop.least_share_percent / 100.0,
        replacement=counter.full_replacement(),
    )


def ways_of(question: Question, *, shop: Shop, repair: Repair) -> dict[str, list[Path]]:
    """The paths that mend each fault in question, the shop's way first; faults that nothing mends are left out."""
    layout = question.machine.layout
    ways = {fault: _in_order(repair.paths_of(fault, layout=layout), shop) for fault in question.faults}
    return {fault: paths for fault, paths in ways.items() if paths}


def leading_faults(chances: Mapping[str, float]) -> tuple[str, ...]:
    """The faults that an offer mends unless somebody says otherwise: all that are likely, at least the likeliest."""
    real = sorted(((p, f) for f, p in chances.items() if f != "none"), reverse=True)
    if not real or chances.get("none", 0.0) >= LEAST_CHANCE:
        return ("none",)
    likely = tuple(f for p, f in real if p >= LEAST_CHANCE)
    return likely or (real[0][1],)


def _choices(question: Question, *, shop: Shop, repair: Repair) -> list[tuple[Kind, tuple[Path, ...]]]:
    """Sets of paths that mend all faults: the shop's way first, then every other with one path exchanged."""
    ways = ways_of(question, shop=shop, repair=repair)
    if not ways:
        return []
    base = {fault: paths[0] for fault, paths in ways.items()}
    out: list[tuple[Kind, tuple[Path, ...]]] = [(_kind_of(base.values()), _union(base.values()))]
    for fault, paths in ways.items():
        for path in paths[1:]:
            if path.kind == "watch" and question.stage != "whine":
                continue
            changed = _union({**base, fault: path}.values())
            if all({p.id for p in changed} != {p.id for p in done} for _, done in out):
                out.append((path.kind if path.kind != "full" else "other_school", changed))
    return out


def _in_order(paths: Sequence[Path], shop: Shop) -> list[Path]:
    def key(path: Path) -> tuple[bool, bool]:
        school, _, way = path.school.partition("=")
        fixed = shop.schools.get(school)
        return not (fixed is not None and fixed == way), path.kind not in ("full", "advice")

    return sorted(paths, key=key)


def _union(paths: Iterable[Path]) -> tuple[Path, ...]:
    """Each path once: one may mend several faults."""
    return tuple(dict.fromkeys(paths))


def _kind_of(paths: Iterable[Path]) -> Kind:
    """What all of them are, else a full repair."""
    kinds = {p.kind for p in paths}
    return kinds.pop() if len(kinds) == 1 else "full"


def _rank(option: Option) -> tuple[int, int, str]:
    """Lawful repairs and a replacement by what a year costs; then what the share rule speaks against; then the rest."""
    last = {"scrap": 3, "workaround": 2, "replace_pair": 2}.get(option.kind, 0 if option.allowed else 1)
    return last, option.a_year.minor if option.a_year is not None else 0, option.code


def _says(proposed: Option, ranked: Sequence[Option], rule: ShareRule) -> str:
    limit = f"{100 * rule.limit:.0f}\u00a0% for {rule.age_years:g} years"
    limit += "" if rule.age_known else " (its age is not known: half a life is taken)"
    if proposed.share is not None:
        return (
            f"{proposed.name}: {100 * proposed.share:.0f}\u00a0% of a replacement, within the limit of {limit}, and it "
            "costs least for each year that it buys."
        )
    full = min((o for o in ranked if o.kind in ("full", "other_school")), key=lambda o: o.total.low, default=None)
    if full is not None and full.share is not None and not full.allowed:
        mended = full.name[0].lower() + full.name[1:]
        return f"{proposed.name}: {mended} would take {100 * full.share:.0f}\u00a0% of one, above the limit of {limit}."
    return "A new machine costs least for each year that it buys."
