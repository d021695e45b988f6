"""What is open and looked at, and the work it asks for. Holds no widgets."""
