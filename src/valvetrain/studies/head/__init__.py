"""The head itself: what its fuel bears, what gas its valves pass, and what the machine shop does to it."""
