"""Pictures of a job: the store, any window of any view, contact sheet, quick looks."""
