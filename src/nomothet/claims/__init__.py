"""The check of what people write against what was measured: sentence by sentence, by the plain rules of docs/claims.md.

It reads words and numbers and understands nothing; what it says is a help for whoever writes, and blocks nothing.
"""

from nomothet.claims.check import Checked, Status, check
from nomothet.claims.sentences import sentences_of

__all__ = ["Checked", "Status", "check", "sentences_of"]
