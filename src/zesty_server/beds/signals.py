"""What beds announce to whoever uses them."""

from django.dispatch import Signal

#: A bed (``bed``) is about to be removed; a receiver that needs it raises an error.
bed_removal = Signal()
