"""What accounts announce."""

from django.dispatch import Signal

#: An account was made; receivers run as its owner.
account_added = Signal()
