"""Being up: supervisor, database, address, privileges, what is running."""
