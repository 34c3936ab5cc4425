"""Passive networks between an output and its drivers: what they do, from textbooks, and searched for."""
