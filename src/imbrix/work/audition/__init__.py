"""Listening: one's own music through the processor, two tunes against each other, what was noted."""
