"""The designs: cards, their lists, the designer's tools."""

from django.apps import AppConfig


class DesignsConfig(AppConfig):
    """Tells the shelf who uses its papers."""

    name = "zester.designs"

    def ready(self) -> None:
        """Be asked by the shelf."""
        from zester.designs.services import lists_naming, unclear_after
        from zester.shelf.uses import register

        register(lists_naming, unclear_after)
