"""From the goal and a shelf to the sets that fit and hold: what goes together, every set judged, the best of them, and parts dealt to seats."""
