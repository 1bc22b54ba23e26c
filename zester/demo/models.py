"""The example that somebody has taken into their account, so that it can be thrown away again."""

from django.conf import settings
from django.db import models


class Example(models.Model):
    """What came with it: the class, and the keys of cards, papers and tools that were not there before."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    card_class = models.ForeignKey("classes.CardClass", on_delete=models.CASCADE, null=True)
    cards = models.JSONField(default=list)
    papers = models.JSONField(default=list)
    tools = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"the example of account {self.owner_id}"
