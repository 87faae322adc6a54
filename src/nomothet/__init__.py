"""Nomothet: plans, runs and compares passes across hardware configurations."""
