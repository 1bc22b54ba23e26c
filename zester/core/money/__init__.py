"""What an order comes to, what it costs to make, what is left."""
