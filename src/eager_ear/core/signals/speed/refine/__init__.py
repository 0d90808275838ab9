"""The track made exact: by the phase of its lines, by one clock for all sensors, by what a heavy drum can do."""
