"""Standings under a name, and their public pages."""
