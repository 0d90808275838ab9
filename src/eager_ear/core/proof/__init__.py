"""Proof: the list of tests a repair asks for, what is led through at the machine, and the machine before and after."""

from eager_ear.core.proof.compare import BandChange, BeforeAfter, Change, compare_before_after
from eager_ear.core.proof.service_sheet import Act, Beat, ServiceSheet, Turn, beat, check_sheet
from eager_ear.core.proof.wet_load import WetLoad, wet_load
from eager_ear.core.proof.witness import Look, Witness, witness

__all__ = [
    "Act",
    "BandChange",
    "Beat",
    "BeforeAfter",
    "Change",
    "Look",
    "ServiceSheet",
    "Turn",
    "WetLoad",
    "Witness",
    "beat",
    "check_sheet",
    "compare_before_after",
    "wet_load",
    "witness",
]
