"""Eager Ear: hears a washer's spin test, measures it, and names the failing part with its odds."""

__version__ = "0.1.0"
