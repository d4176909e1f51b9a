"""Licks of all documents: gathered, found by words and by example."""
