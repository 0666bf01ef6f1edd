"""The bed camera: calibrated, looked through, pieces laid on what it finds."""
