"""The Proof station: what the engine did, measured."""
