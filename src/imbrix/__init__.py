"""Imbrix: measure, cross over, align, equalise and prove multi-way loudspeaker systems."""

__version__ = "0.1.0"
