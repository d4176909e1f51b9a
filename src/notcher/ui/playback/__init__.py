"""What is played: the player and its sources."""
