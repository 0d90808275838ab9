"""Proof: the list of tests a repair asks for, and the machine before and after."""

from eager_ear.core.proof.compare import BandChange, BeforeAfter, Change, compare_before_after

__all__ = ["BandChange", "BeforeAfter", "Change", "compare_before_after"]
