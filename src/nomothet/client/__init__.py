"""A client for scripts: reviews, figures, passes, captures and findings as pandas frames, and recording figures.

It needs the extra `client` (httpx and pandas) and a personal token, made on the account page.

    with Nomothet("https://reviews.example", token) as nomothet:
        figures = nomothet.figures("dome-power")
"""

from nomothet.client.connection import Nomothet, Refused

__all__ = ["Nomothet", "Refused"]
