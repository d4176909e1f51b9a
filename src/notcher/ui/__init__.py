"""The window: benches over one document, and the reel that never leaves. No arithmetic about music or sound here."""
