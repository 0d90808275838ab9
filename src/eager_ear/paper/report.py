"""The customer's report, and the label for the inside of the cabinet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from eager_ear.core.units import percent
from eager_ear.paper.sheet import Sheet, Size

MOST_FINDINGS = 4
MOST_SUSPECTS = 4
Proof = Literal["passed", "failed", "left out", "open"]


@dataclass(frozen=True, kw_only=True)
class ReportFacts:
    """All that a report tells.

    called : what the call said before anything was opened; findings : the sentences that decided it
    suspects : short names with their chances; found : what was really there, empty where nobody is sure
    done : names of the repairs; renewed : parts; workaround : a bench-made fix is in the machine
    proofs : tests with how they stand and why one was left out; compared : the machine before and after, in a sentence
    used : parts that were fitted used, each with its condition; graded : of a machine that is sold, with its reasons
    old_parts : that came out, and what became of each
    pegs : quantities before and after with their texts; due : days with what is done then
    """

    place: str
    machine: str
    made_on: date
    ended: str
    called: str
    findings: Sequence[str]
    suspects: Sequence[tuple[str, float]]
    found: Sequence[str]
    done: Sequence[str]
    renewed: Sequence[str]
    old_parts: Sequence[tuple[str, str]]
    workaround: bool
    proofs: Sequence[tuple[str, Proof, str]]
    compared: str
    pegs: Sequence[tuple[str, str, str]]
    advice: Sequence[str]
    due: Sequence[tuple[date, str]]
    used: Sequence[str] = ()
    graded: str = ""


ENDED = {
    "mended": "Mended.",
    "workaround": "Helped for now.",
    "declined": "Left as it was, as you wished.",
    "scrapped": "Not worth mending: it goes.",
    "no_fault": "Nothing wrong was found.",
    "referred": "Passed on to a specialist.",
}


def report_pdf(facts: ReportFacts, *, size: Size) -> bytes:
    """The report as a PDF: what was wrong, how we know, what was done, how it was proved, what comes."""
    sheet = Sheet(size=size, title=f"Report, {facts.place}")
    sheet.words(f"Report · {facts.made_on:%d %B %Y}", soft=True)
    sheet.big(f"{facts.place or 'A washer'}: {ENDED.get(facts.ended, 'Not ended yet.').lower()}")
    sheet.words(facts.machine, soft=True)
    sheet.heading("What was wrong")
    if facts.found:
        sheet.words(f"Found inside: {', '.join(facts.found).lower()}.", bold=True)
    sheet.words(f"As it was called before anything was opened: {facts.called}")
    if facts.findings or facts.suspects:
        sheet.heading("How we know")
        for finding in facts.findings[:MOST_FINDINGS]:
            sheet.words(f"{finding[0].upper()}{finding[1:]}.")
        sheet.ln(2.0)
        sheet.bars([(name, chance, percent(chance)) for name, chance in facts.suspects[:MOST_SUSPECTS]])
    if facts.done or facts.renewed or facts.used:
        sheet.heading("What was done")
        for name in facts.done:
            sheet.words(name)
        if facts.renewed:
            sheet.words(f"Renewed: {', '.join(facts.renewed)}.")
        if facts.used:
            sheet.words(f"Fitted used: {', '.join(facts.used)}.")
        for name, fate in facts.old_parts:
            sheet.words(f"Old {name.lower()}: {fate}.")
    if facts.workaround:
        sheet.words(
            "This is a workaround, not a repair: it is looked at again on the day named below, and the machine is "
            "stopped at once if it bangs, walks or leaks.",
            bold=True,
        )
    if facts.graded:
        sheet.heading("As what it is sold")
        sheet.words(facts.graded)
    if facts.proofs or facts.compared:
        sheet.heading("How it was proved")
        if facts.compared:
            sheet.words(facts.compared, bold=True)
        for name, before, after in facts.pegs:
            sheet.row(name, "", below=f"before: {before}; after: {after}")
        for name, state, why in facts.proofs:
            sheet.row(name, state, below=why)
    if facts.advice:
        sheet.heading("For the days to come")
        for advice in facts.advice:
            sheet.words(advice)
    for day, what in facts.due:
        sheet.row(what, f"{day:%d %B %Y}")
    return sheet.bytes()


class _Label(Sheet):
    """A card of its own size, without a page number."""

    def footer(self) -> None:
        """Nothing: the card is read inside a cabinet."""


def label_pdf(facts: ReportFacts, *, size: Size) -> bytes:
    """A label to cut out and put inside the cabinet: what was done when, and when it is looked at again."""
    sheet = _Label(size=size, title=f"Label, {facts.place}")
    sheet.words("Cut out and put inside the cabinet, away from belt and water.", soft=True, size=8.5)
    sheet.ln(2.0)
    top = sheet.get_y()
    sheet.words(f"{facts.made_on:%Y-%m-%d}   {facts.machine}", bold=True)
    if facts.done:
        sheet.words("; ".join(facts.done))
    if facts.renewed:
        sheet.words(f"New: {', '.join(facts.renewed)}")
    if facts.used:
        sheet.words(f"Used: {', '.join(facts.used)}")
    if facts.graded:
        sheet.words(facts.graded)
    if facts.workaround:
        sheet.words("WORKAROUND INSIDE. Witness mark set: look at it before each further heavy load.", bold=True)
    left_out = [name for name, state, _ in facts.proofs if state != "passed"]
    sheet.words(f"Not proved: {', '.join(left_out)}" if left_out else "Proved on the machine")
    for day, what in facts.due:
        sheet.words(f"Look again {day:%Y-%m-%d}: {what}")
    sheet.rect(sheet.l_margin - 3.0, top - 2.0, sheet.epw + 6.0, sheet.get_y() - top + 4.0)
    return sheet.bytes()
