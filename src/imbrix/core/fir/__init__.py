"""FIR correction: what is wanted of the taps, the search for them, and what comes of it."""
