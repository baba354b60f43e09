#!/bin/sh
# Puts Debian's Chromium on the machine when it is missing and this may be done; else says the one command.
command -v chromium >/dev/null 2>&1 && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
  apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium >/dev/null && exit 0
fi
echo "The browser tests need Chromium. Install it with: sudo apt-get install chromium" >&2
exit 1
