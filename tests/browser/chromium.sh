#!/bin/sh
# Debian's Chromium; under which process number is written down, so that it can be ended if it does not close.
echo $$ > "$ZESTER_CHROMIUM_PID"
exec chromium "$@"
