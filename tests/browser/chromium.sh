#!/bin/sh
# Puts Debian's Chromium on the machine when it is missing and this may be done, else says the one command; and ffprobe,
# with which films are looked at once more: without it those tests are passed over.
may=no
[ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1 && may=yes
if ! command -v chromium >/dev/null 2>&1; then
  if [ $may = no ] || ! { apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium >/dev/null; }; then
    echo "The browser tests need Chromium. Install it with: sudo apt-get install chromium" >&2
    exit 1
  fi
fi
if [ $may = yes ] && ! command -v ffprobe >/dev/null 2>&1; then
  apt-get install -y -qq --no-install-recommends ffmpeg >/dev/null 2>&1 || echo "ffprobe is not here: films are looked at without it." >&2
fi
exit 0
