"""What the command line does, one function a command."""
