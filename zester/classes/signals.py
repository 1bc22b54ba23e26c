"""What the classes tell those who build on them."""

from django.dispatch import Signal

# A class was counted anew, within the transaction that stores what was counted. ``counted``: a CountedClass.
class_counted = Signal()
