"""What a recording holds, measured: one idea a file, one wing a subject.

Imports go one way, from what knows nothing of washers to what measures a whole run (`run`):
`types`, `dsp`, `angle`, `recordings`, `speed`, `impacts`, `mechanics`, `drive`, `sound`, `run`. From outside, a wing is
entered by its own `__init__`, which lists what it offers.
"""
