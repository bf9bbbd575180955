"""``python -m grainet``: the command line."""

import sys

from grainet.cli import main

sys.exit(main())
