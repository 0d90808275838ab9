"""What a visit looks like on the wire."""
