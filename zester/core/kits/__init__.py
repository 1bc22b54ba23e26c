"""Counts for people: offers, orders, what follows from them, what has to be bought."""
