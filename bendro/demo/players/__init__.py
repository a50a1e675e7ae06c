"""A class that plays itself: groups, timers and a wall that come in by the code and run the lesson by the same routes as everybody."""
