"""The designs: cards, their lists, the designer's tools."""

from django.apps import AppConfig
from django.db.models.signals import post_delete


class DesignsConfig(AppConfig):
    """Tells the shelf who uses its papers."""

    name = "zester.designs"

    def ready(self) -> None:
        """Be asked by the shelf."""
        from zester.designs import finding
        from zester.designs.services import forget_photo, lists_naming, unclear_after
        from zester.shelf.uses import register
        from zester.site import find

        register(lists_naming, unclear_after)
        find.register("Designs", finding.find_designs)
        find.register("Tools", finding.find_tools)
        post_delete.connect(forget_photo, sender=self.get_model("Photo"))
