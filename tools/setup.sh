#!/bin/sh
# Sets up everything Kneel needs: system libraries, a virtual environment in .venv, pinned packages.
# Says one clear line where something is missing that it may not install itself.
# usage: tools/setup.sh [run|dev]    "run" is enough to start Kneel, "dev" adds what the tests need
set -eu
cd "$(dirname "$0")/.."
what=${1:-run}

need() { # library file, Debian package
    ldconfig -p 2>/dev/null | grep -q "$1" || find /usr/lib /lib -name "$1" 2>/dev/null | grep -q . || missing="$missing $2"
}

missing=""
PATH=$PATH:/sbin:/usr/sbin
need libEGL.so.1 libegl1
need libGL.so.1 libgl1
need libxkbcommon.so.0 libxkbcommon0
need libxkbcommon-x11.so.0 libxkbcommon-x11-0
need libX11-xcb.so.1 libx11-xcb1
need libxcb-cursor.so.0 libxcb-cursor0
need libxcb-icccm.so.4 libxcb-icccm4
need libxcb-image.so.0 libxcb-image0
need libxcb-keysyms.so.1 libxcb-keysyms1
need libxcb-randr.so.0 libxcb-randr0
need libxcb-render-util.so.0 libxcb-render-util0
need libxcb-shape.so.0 libxcb-shape0
need libxcb-sync.so.1 libxcb-sync1
need libxcb-xfixes.so.0 libxcb-xfixes0
need libxcb-xinerama.so.0 libxcb-xinerama0
need libxcb-xkb.so.1 libxcb-xkb1
need libdbus-1.so.3 libdbus-1-3
need libfontconfig.so.1 libfontconfig1
need libfreetype.so.6 libfreetype6
need libglib-2.0.so.0 libglib2.0-0
need libpango-1.0.so.0 libpango-1.0-0
need libpangoft2-1.0.so.0 libpangoft2-1.0-0
need libpulse.so.0 libpulse0
need libharfbuzz.so.0 libharfbuzz0b
need libharfbuzz-subset.so.0 libharfbuzz-subset0
python=""
for candidate in python3.11 python3.12 python3.13 python3; do
    if command -v "$candidate" >/dev/null 2>&1 &&
        "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
        python=$candidate
        break
    fi
done
if [ -z "$python" ]; then missing="$missing python3 python3-venv"; python=python3
elif ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then missing="$missing python3-venv"; fi
if [ "$what" = dev ]; then
    command -v Xvfb >/dev/null 2>&1 || missing="$missing xvfb"
    command -v git >/dev/null 2>&1 || missing="$missing git"
    command -v strace >/dev/null 2>&1 || missing="$missing strace"
fi

if [ -n "$missing" ]; then
    as_root=""
    if [ "$(id -u)" != 0 ]; then
        if command -v sudo >/dev/null 2>&1 && { sudo -n true 2>/dev/null || [ -t 0 ]; }; then as_root=sudo
        else
            echo "Missing system packages:$missing. Install them as root (apt-get install$missing) and try again." >&2
            exit 2
        fi
    fi
    if ! command -v apt-get >/dev/null 2>&1; then
        echo "Missing system libraries; on Debian they are called:$missing. Install their like and try again." >&2
        exit 2
    fi
    echo "Installing system packages:$missing" >&2
    $as_root apt-get -qq update
    # shellcheck disable=SC2086
    $as_root env DEBIAN_FRONTEND=noninteractive apt-get -qq install -y --no-install-recommends $missing >/dev/null
fi

stamp=.venv/.ready-$what
inputs="requirements.lock requirements-dev.lock pyproject.toml tools/setup.sh"
fresh=yes
[ -e "$stamp" ] || fresh=no
for file in $inputs; do [ "$stamp" -nt "$file" ] || fresh=no; done
if [ "$fresh" = no ]; then
    [ -x .venv/bin/python ] || "$python" -m venv .venv
    lock=requirements.lock
    [ "$what" = dev ] && lock=requirements-dev.lock
    .venv/bin/python -m pip install -q --disable-pip-version-check -r "$lock"
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
    touch "$stamp"
fi
# An optional part: says one sentence where it cannot be had, and Kneel works without.
.venv/bin/python tools/body_model.py || true
