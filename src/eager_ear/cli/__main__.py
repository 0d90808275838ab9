"""`python -m eager_ear.cli`."""

import sys

from eager_ear.cli import main

sys.exit(main())
