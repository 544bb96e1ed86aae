#!/bin/sh
set -e
# Not before an update: that one restarts the service.
if [ "$1" = remove ] && [ -d /run/systemd/system ]; then
  systemctl --no-reload disable --now sparecrate.service sparecrate.socket || true
fi
