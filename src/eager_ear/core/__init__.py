"""The rules of the job and all computation: no files, clock, environment or interface."""
