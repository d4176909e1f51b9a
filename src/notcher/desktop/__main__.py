import os
import sys

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from notcher.desktop import main

sys.exit(main())
