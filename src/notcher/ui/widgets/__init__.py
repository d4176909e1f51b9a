"""Widgets that several benches use, and the look of all of them."""
