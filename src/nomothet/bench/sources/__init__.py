"""Sensors beyond the operating system's own: exporters and meters on the network."""
