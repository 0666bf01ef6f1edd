"""What leaves a ticket: files, sheets, and the gate they pass."""
