"""Passes that a person runs: the docket leads through one, and what is read off it comes in as one pass."""
