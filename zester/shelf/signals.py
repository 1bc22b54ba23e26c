"""What the shelf tells those who build on it."""

from django.dispatch import Signal

# A paper was put on the shelf, changed, taken off or put back. ``paper``: the paper as it is now; ``kind``: what;
# ``was_called``, where somebody wrote its name anew: what it was called before.
paper_changed = Signal()
NEW, CHANGED, GONE = "new", "changed", "gone"
