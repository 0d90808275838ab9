"""The suspended group by its resonance: an oscillator swept along a speed that it may itself have spoilt."""
