"""Two tunes compared by ear: as loud as each other, and how sure a blind result is."""
