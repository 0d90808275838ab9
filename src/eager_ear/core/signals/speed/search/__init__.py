"""The search: every sensor scores every candidate speed, the best path is taken, and its validity is doubted."""
