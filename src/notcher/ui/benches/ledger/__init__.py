"""What is kept beside the documents: the lick catalogue."""
