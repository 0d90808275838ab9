"""How fast it is, and on how large an archive."""
