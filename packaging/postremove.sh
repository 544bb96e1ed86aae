#!/bin/sh
set -e
if [ -d /run/systemd/system ]; then
  systemctl daemon-reload
fi
if [ "$1" = purge ]; then
  rm -rf /var/lib/sparecrate /etc/sparecrate
  if getent passwd sparecrate >/dev/null; then
    deluser --system --quiet sparecrate || true
  fi
fi
