"""What the shop looks like on the wire."""
