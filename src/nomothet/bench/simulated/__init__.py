"""Simulated systems: one physical model with parameters as data, behind the same protocol as a real machine."""
