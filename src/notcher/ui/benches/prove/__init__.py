"""The Prove bench: the list of doubts, worst first, each seen, heard and settled."""
