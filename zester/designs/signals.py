"""What the designs tell those who build on them."""

from django.dispatch import Signal

# What a card is made of may have changed. ``card``: the card; ``open_in``: what the page that waits for what follows is
# about, or None; whoever follows may put there what the page shows.
# ``before``: where only its list has changed, the list as it was.
card_changed = Signal()
# The user's dies, punches or folders have changed. ``owner``: whose.
tools_changed = Signal()
