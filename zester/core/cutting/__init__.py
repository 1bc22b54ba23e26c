"""From a plan to steps at the trimmer."""
