"""Routes of the call: judging, comparing, faults, the catalogue."""
