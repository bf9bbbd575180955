"""``python -m grainet``: the command line."""

import sys

from grainet.isolate import leave_the_working_folder

leave_the_working_folder()

from grainet.cli import main  # noqa: E402

sys.exit(main())
