"""The written cut list: text to pieces and back."""
