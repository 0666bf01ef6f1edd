"""What is computed of a job, one function a stage, by what it is about."""
