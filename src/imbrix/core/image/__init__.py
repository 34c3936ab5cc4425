"""Where a sound stands between left and right: what a person hears of it, what that means, and what mends it."""
