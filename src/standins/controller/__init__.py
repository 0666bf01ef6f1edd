"""A stand-in motion controller with its beam, its clock and a burn map."""

from standins.controller.machine import Machine, Settings

__all__ = ["Machine", "Settings"]
