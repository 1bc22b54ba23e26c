"""The classes: who comes, which cards, how many of each."""

from django.apps import AppConfig


class ClassesConfig(AppConfig):
    """Follows designs, papers and tools; says how the first two stations stand."""

    name = "zester.classes"

    def ready(self) -> None:
        """Listen, and be asked."""
        from zester.classes import follow, station, today, uses
        from zester.designs import uses as design_uses
        from zester.designs.signals import card_changed, tools_changed
        from zester.shelf.signals import paper_changed
        from zester.site import find, removed, stations
        from zester.site.today import register_needs, register_next

        removed.register_need(uses.is_kept)
        removed.register_more(uses.taken_out)
        card_changed.connect(follow.follow_card)
        paper_changed.connect(follow.follow_paper)
        tools_changed.connect(follow.follow_tools)
        design_uses.register(uses.InClasses())
        stations.register("design", "Design", "classes:desk", station.design_states)
        stations.register("count", "Count", "classes:count", station.count_states)
        register_next("design", today.next_of)
        register_needs("count", today.needs_people)
        find.register("Classes", today.find_classes)
        find.register("People", today.find_people)
        find.register("Cards in classes", today.find_cards)
        tabs = (("sums", "Sums", "count"), ("people", "People", "people"), ("offers", "Offers", "offers"))
        for order, (key, name, view) in enumerate((*tabs, ("instead", "Something else instead", "instead"))):
            stations.register_tab("count", key, name, f"classes:{view}", 10 * order)
