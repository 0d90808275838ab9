"""What the call looks like on the wire."""
