"""Reading a bus: a process beside the server, and logs recorded elsewhere."""
