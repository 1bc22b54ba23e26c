"""Casting: which paper goes where, from a pad and a lettered guide."""

from django.apps import AppConfig


class CastingConfig(AppConfig):
    """Lays guides' sheets out in plans, and is found by its words."""

    name = "zester.casting"

    def ready(self) -> None:
        """Be asked."""
        from zester.casting import finding, guides
        from zester.classes import services
        from zester.plans import needs
        from zester.site import find, stations
        from zester.site.today import register_next

        services.register_copied(guides.copy_use)
        needs.register_layouts(guides.layouts_for)
        stations.register_tab("count", "casting", "Casting", "casting:table", 3)
        register_next("count", finding.next_to_cast)
        find.register("Guides", finding.find_guides)
