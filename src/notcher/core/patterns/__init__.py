"""What comes again in a solo, and what moves."""
