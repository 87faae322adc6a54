"""Workloads that ship with the bench; each is a program of its own that writes tally lines."""
