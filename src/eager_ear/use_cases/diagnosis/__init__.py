"""From recordings to the call: measuring, weighing, deciding, the same machine beside."""
