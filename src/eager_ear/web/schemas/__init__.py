"""Shapes of requests and answers; Pydantic lives here only."""
