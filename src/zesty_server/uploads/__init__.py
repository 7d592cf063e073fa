"""Files on their way in, in pieces that can be resumed."""
