"""One function for each thing that a person does. Each takes a session and never commits: whoever called for it does, once, when all of it
is done (the request in api/needs.py, the command, the making of the demo)."""
