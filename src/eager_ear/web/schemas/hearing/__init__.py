"""What sound as it comes looks like on the wire."""
