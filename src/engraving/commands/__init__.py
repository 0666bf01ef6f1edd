"""The command line's commands, and what their options share."""
