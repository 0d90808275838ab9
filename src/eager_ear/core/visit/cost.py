"""Cost: prices that were asked, parts added to the order, options that were offered, what the customer decided."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import Code, Day, Flag, Items, Number, Record, Text
from eager_ear.core.visit.said import Kind, Said, of, of_its_own

ANSWERS = ("yes", "no", "wait", "scrap")
WHY = ("price", "age", "wait", "replaces", "other")
MOST_MONEY = 10**12


@dataclass(frozen=True, kw_only=True)
class Cost:
    """Bodies as they were entered: the latest price of each part, every offer, the latest decision.

    added : parts that go on the order besides those of the repair
    """

    priced: tuple[Mapping[str, Any], ...]
    offered: tuple[Mapping[str, Any], ...]
    decided: Mapping[str, Any] | None
    added: tuple[str, ...] = ()

    @property
    def chosen_paths(self) -> tuple[str, ...]:
        """The repair that the customer said yes to, as paths; empty where nobody has, or to something else."""
        if self.decided is None or self.decided["answer"] != "yes" or not self.offered:
            return ()
        options = self.offered[-1]["options"]
        chosen = int(self.decided.get("option", 0))
        return tuple(options[chosen]["path"]) if chosen < len(options) else ()


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station. Amounts are whole numbers of the currency's smallest unit."""
    amount = Number(low=-MOST_MONEY, high=MOST_MONEY, whole=True)
    currency = Text(longest=3, shortest=3)
    line = Record(
        keys={"code": Code(), "text": Text(longest=300), "amount": amount, "currency": currency},
        needs=("amount",),
    )
    option = Record(
        keys={
            "path": Items(of=Code()),
            "lines": Items(of=line),
            "total": amount,
            "currency": currency,
            "minutes": Number(low=0, high=100_000),
            "days_without": Number(low=0, high=3650),
        },
        needs=("path", "total"),
    )
    return (
        Kind(
            code="priced",
            station="cost",
            says=_of_part_or_service,
            body=Record(
                keys={
                    "part": Code(),
                    "service": Code(),
                    "amount": amount,
                    "currency": currency,
                    "source": Text(longest=200),
                    "available_on": Day(),
                    "returnable": Flag(),
                },
                needs=("amount", "currency"),
            ),
        ),
        Kind(
            code="renewed_too",
            station="cost",
            says=of("part"),
            body=Record(
                keys={"part": Code(choices=tuple(knowledge.repair.parts)), "wanted": Flag()}, needs=("part", "wanted")
            ),
        ),
        Kind(
            code="offered",
            station="cost",
            says=of_its_own,
            body=Record(keys={"options": Items(of=option, fewest=1), "valid_until": Day()}, needs=("options",)),
        ),
        Kind(
            code="decided",
            station="cost",
            says=of(),
            body=Record(
                keys={
                    "option": Number(low=0, high=99, whole=True),
                    "answer": Code(choices=ANSWERS),
                    "why": Code(choices=WHY),
                    "who": Text(longest=200),
                    "consents": Items(of=Code()),
                    "signature": Text(longest=200_000),
                },
                needs=("answer",),
            ),
        ),
    )


def _of_part_or_service(body: Mapping[str, Any]) -> dict[str, Any]:
    return {str(body.get("part") or body.get("service") or ""): dict(body)}


def fold(said: Said) -> Cost:
    """Prices, offers, decision."""
    decided = said.last("decided")
    return Cost(
        priced=tuple(s.value for s in said.newest("priced").values()),
        offered=tuple(dict(e.body or {}) for e in said.all("offered")),
        decided=None if decided is None else dict(decided.body or {}),
        added=tuple(part for part, s in said.newest("renewed_too").items() if s.value["wanted"]),
    )
