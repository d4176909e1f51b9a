import sys

from notcher.cli import main

sys.exit(main())
