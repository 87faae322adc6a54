"""What keeps Nomothet from starting, in words for the person at the terminal."""


class LaunchError(Exception):
    """Starting failed; the message says why and what to do."""
