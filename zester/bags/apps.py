"""The bags: what goes into each."""

from django.apps import AppConfig


class BagsConfig(AppConfig):
    """Says how the Pack station stands; hears when what is missing is cut again, and when a class was counted."""

    name = "zester.bags"

    def ready(self) -> None:
        """Be asked."""
        from zester.bags import ready
        from zester.bags.marks import follow_counts
        from zester.bags.models import Mark
        from zester.bags.shortages import came_back
        from zester.bags.station import next_to_pack, pack_states
        from zester.bench.refits import refitted
        from zester.classes import people
        from zester.classes.held import register_done
        from zester.classes.signals import class_counted
        from zester.site import stations
        from zester.site.today import register_next

        refitted.connect(came_back)
        class_counted.connect(follow_counts)
        register_done(lambda card_class: Mark.objects.filter(card_class=card_class).exists())

        register_next("pack", next_to_pack)
        stations.register_tab("shelf", "ready", "Ready kits", "bags:ready", 80)
        people.register_added(ready.take_next)
        stations.register("pack", "Pack", "bags:pack", pack_states)
        tabs = (("pack", "Packing"), ("short", "Piles and what is short"), ("checks", "Checks"), ("print", "Labels"))
        for order, (key, name) in enumerate((*tabs, ("handout", "Hand-out"), ("evening", "The evening"))):
            stations.register_tab("pack", key, name, f"bags:{key}", 10 * order)
