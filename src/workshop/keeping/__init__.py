"""What is kept: everything in one zip, checked when it comes back, nightly where wanted."""
