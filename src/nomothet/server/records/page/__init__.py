"""The public page of a record: made on the server, read without a program, printed, and kept as one file."""

from nomothet.server.records.page.render import render_page

__all__ = ["render_page"]
