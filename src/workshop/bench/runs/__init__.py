"""Burns: started, prepared, followed, compared with the plan, kept as recipes."""
