"""Pages of the shelf. Views parse, call a service, render."""
