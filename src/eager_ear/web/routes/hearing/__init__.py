"""Routes of sound as it comes: live, again, by hand."""
