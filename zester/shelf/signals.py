"""What the shelf tells those who build on it."""

from django.dispatch import Signal

# A paper was put on the shelf, changed, taken off or put back. ``paper``: the paper as it is now; ``kind``: what.
paper_changed = Signal()
NEW, CHANGED, GONE = "new", "changed", "gone"
