"""`python -m knotplan` is the command `knotplan`."""

from knotplan.cli.main import main

main()
