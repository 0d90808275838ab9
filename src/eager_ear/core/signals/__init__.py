"""What a recording holds, measured: one idea a file."""
