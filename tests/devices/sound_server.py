"""A sound server of the test's own, up before anybody asks it."""

import subprocess
import time

READY_S = 15.0


def started(*modules: str) -> "subprocess.Popen[bytes]":
    """Start the server with its modules and wait until it answers, however busy the machine is."""
    asked = [part for module in ("module-native-protocol-unix auth-anonymous=1", *modules) for part in ("-L", module)]
    server = subprocess.Popen(["pulseaudio", "-n", "--high-priority=yes", "--exit-idle-time=-1", *asked])
    until = time.monotonic() + READY_S
    while subprocess.run(["pactl", "info"], capture_output=True, check=False).returncode != 0:
        assert time.monotonic() < until, "the sound server did not come up"
        time.sleep(0.1)
    return server
