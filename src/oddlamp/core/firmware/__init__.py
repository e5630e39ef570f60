"""The program of a host, printed as the source of a board's program."""
