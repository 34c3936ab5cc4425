"""The page for the customer's phone, and the listener of its own that serves it: nothing else is reachable there."""
