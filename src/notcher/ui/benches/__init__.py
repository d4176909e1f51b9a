"""The benches: each knows state, commands, playback, tab and widgets; never the shell, never another bench."""
