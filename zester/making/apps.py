"""What can be made of what lies on the shelf."""

from django.apps import AppConfig


class MakingConfig(AppConfig):
    """Is a page of the shelf."""

    name = "zester.making"

    def ready(self) -> None:
        """Be found."""
        from zester.site import stations

        stations.register_tab("shelf", "making", "What can I make", "making:page", 70)
