"""Whole questions: inputs to a frozen result that carries how sure it is and why."""
