"""What is asked of a job and what it gives: in, kept, out."""
