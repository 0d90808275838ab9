"""Running on one machine: the private database, the server, the demo, the benchmark."""
