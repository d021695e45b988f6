"""`python -m avrin`: the command line."""

from avrin.cli import main

raise SystemExit(main())
