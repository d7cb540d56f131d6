"""What a Linux desktop needs to know of the program: entry, description, kind of file, icons."""
