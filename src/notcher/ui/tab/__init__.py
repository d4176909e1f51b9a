"""The measured tab as a widget."""
