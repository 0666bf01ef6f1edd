"""Simulated devices. They know nothing of the program they stand in for."""
