"""What lies on the shelf: ledger, offcuts, tables."""
