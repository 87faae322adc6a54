"""The charts of findings as SVG, for pages without a program and for embedding elsewhere."""

from nomothet.server.records.charts.draw import chart_of

__all__ = ["chart_of"]
