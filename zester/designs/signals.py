"""What the designs tell those who build on them."""

from django.dispatch import Signal

# What a card is made of may have changed. ``card``: the card; ``open_in``: the key of the class it was changed in,
# whose page waits for what follows, or None.
card_changed = Signal()
# The user's dies, punches or folders have changed. ``owner``: whose.
tools_changed = Signal()
