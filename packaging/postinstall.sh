#!/bin/sh
set -e
if ! getent passwd sparecrate >/dev/null; then
  adduser --system --group --home /var/lib/sparecrate --no-create-home --quiet sparecrate
fi
chgrp sparecrate /etc/sparecrate/sparecrate.toml
install -d -m 0700 -o sparecrate -g sparecrate /var/lib/sparecrate
if [ -d /run/systemd/system ]; then
  systemctl daemon-reload
  # An update goes on with the new version; a first installation waits for its settings.
  systemctl try-restart sparecrate.service || true
fi
