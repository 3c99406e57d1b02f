"""Changes of a job: its plan, and its order to the machine shop."""
