"""The image between left and right: bands that are played, where a person hears them, what mends them."""
