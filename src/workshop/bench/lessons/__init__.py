"""What finished pieces teach: their photos read, and recipes amended by them."""
