"""What recordings announce to whoever works with them."""

from django.dispatch import Signal

#: A recording (``recording_id``) has its measures.
measured = Signal()
