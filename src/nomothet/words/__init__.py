"""The one place where codes of core and server become sentences, for the API, the record and the terminal.

A catalogue holds a function for each code, which takes the code's values and returns the sentence.
"""

from nomothet.words.catalogue import CATALOGUE, say, say_stored, says

__all__ = ["CATALOGUE", "say", "say_stored", "says"]
