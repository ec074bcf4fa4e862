"""What changes tables of substitution, and sheets by them; one verb a file."""
