# Sourced by ./start and ./check: the environment in .venv, made from a lock file when that has changed.

# make_environment HERE LOCK
make_environment() {
    here=$1
    lock=$here/$2
    stamp=$here/.venv/stamp-$2
    if [ -f "$stamp" ] && cmp -s "$lock" "$stamp"; then
        return 0
    fi
    python=$(find_python)
    if [ ! -x "$here/.venv/bin/pip" ]; then
        echo "Making the environment in .venv (once; this takes a minute or two) …"
        rm -rf "$here/.venv"
        if ! "$python" -m venv "$here/.venv" 2>/dev/null; then
            rm -rf "$here/.venv"
            debian_install python3-venv
            "$python" -m venv "$here/.venv"
        fi
    fi
    "$here/.venv/bin/pip" install --quiet --disable-pip-version-check --require-hashes -r "$lock"
    "$here/.venv/bin/pip" install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e "$here"
    cp "$lock" "$stamp"
}

find_python() {
    for name in python3.11 python3; do
        if command -v "$name" >/dev/null 2>&1 && "$name" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))'; then
            command -v "$name"
            return 0
        fi
    done
    echo "Wise Arc needs Python 3.11, and none was found. On Debian 12: apt-get install python3 python3-venv" >&2
    exit 1
}

# debian_install PACKAGE … : installs what is missing, as root or through sudo
debian_install() {
    missing=""
    for package in "$@"; do
        if ! dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q "ok installed"; then
            missing="$missing $package"
        fi
    done
    [ -n "$missing" ] || return 0
    echo "Installing from Debian:$missing"
    run=""
    if [ "$(id -u)" -ne 0 ]; then
        command -v sudo >/dev/null 2>&1 || { echo "These packages are needed:$missing. Install them as root: apt-get install$missing" >&2; exit 1; }
        run=sudo
    fi
    $run apt-get update -qq
    DEBIAN_FRONTEND=noninteractive $run apt-get install -y -qq --no-install-recommends $missing >/dev/null
}
