#!/bin/sh
# Puts Debian's Chromium on the machine when it is missing and this may be done, else says the one command; and ffprobe,
# with which films are looked at once more: without it those tests are passed over. The Chromium that is made to run without
# a screen opens a page in half the time; where it cannot be had, the whole one will do.
may=no
[ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1 && may=yes
here() { command -v "$1" >/dev/null 2>&1; }
put() { apt-get install -y -qq --no-install-recommends "$1" >/dev/null 2>&1; }
if [ $may = yes ] && ! here chromium-headless-shell; then
  apt-get update -qq && { put chromium-headless-shell || here chromium || put chromium; }
fi
if ! here chromium-headless-shell && ! here chromium; then
  echo "The browser tests need Chromium. Install it with: sudo apt-get install chromium-headless-shell" >&2
  exit 1
fi
if [ $may = yes ] && ! here ffprobe; then
  put ffmpeg || echo "ffprobe is not here: films are looked at without it." >&2
fi
exit 0
