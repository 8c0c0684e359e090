"""The program as a whole: all its windows, its one running instance, its memory."""
