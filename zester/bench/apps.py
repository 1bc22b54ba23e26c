"""The bench: cutting what was fitted."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """Says how the Cut station stands."""

    name = "zester.bench"

    def ready(self) -> None:
        """Be asked."""
        from zester.bench.station import cut_states, next_to_cut
        from zester.site import stations
        from zester.site.today import register_next

        register_next("cut", next_to_cut)
        stations.register("cut", "Cut", "bench:steps", cut_states)
