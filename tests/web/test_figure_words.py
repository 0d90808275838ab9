"""Every figure of the result tells how it was made, and how far to trust it."""

from __future__ import annotations

from eager_ear.knowledge import load_knowledge
from eager_ear.web.schemas.diagnosis.results import MeasurementsOut

# Told with another figure, or drawn.
NOT_SHOWN = {"stop_hits_turns", "power_cut_s", "plateau_s"}


def test_every_figure_has_its_words() -> None:
    told = load_knowledge().figures
    shown = {n for n in MeasurementsOut.model_fields if not n.endswith("_sigma")} - NOT_SHOWN
    assert set(told) == shown
    for figure in told.values():
        assert figure.rests_on, figure.code
        assert all(text.endswith(".") for text in (figure.how, figure.source)), figure.code


def test_every_figure_has_an_error_or_says_how_good_it_is() -> None:
    for figure in load_knowledge().figures.values():
        measured = f"{figure.code}_sigma" in MeasurementsOut.model_fields
        assert measured != bool(figure.good_to), figure.code
