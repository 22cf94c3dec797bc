"""Response and standard in, findings out."""
