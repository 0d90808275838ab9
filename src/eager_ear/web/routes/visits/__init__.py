"""Routes of a visit: jobs, files, cases, changes."""
