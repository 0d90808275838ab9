"""What offer, plan and proof look like on the wire."""
