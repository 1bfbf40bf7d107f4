"""What is said: messages by key, apart from the code that finds something to say.

A message is a template with places for the facts that it tells; how a fact reads is chosen in the template, so that another
language may choose otherwise. `en/` has a file per step; a second language is a folder beside it.
"""

from .message import Fact, Said, Teller, called, say, teller

__all__ = ["Fact", "Said", "Teller", "called", "say", "teller"]
