"""Choose: from the goal and the shelf to a set that fits and holds, with reasons."""
