"""Which paper goes where: guides for lettered sheets, castings of a pad, its sets."""
