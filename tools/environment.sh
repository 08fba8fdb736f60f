# Sourced by ./start and ./check: the environment in .venv, made from a lock file when that has changed.
# Nothing in it holds the path of the checkout, so that a copied or moved one goes on with it.

# make_environment HERE LOCK
make_environment() {
    here=$1
    lock=$here/$2
    python=$here/.venv/bin/python
    stamp=$here/.venv/stamp-$2
    if [ -f "$stamp" ] && cmp -s "$lock" "$stamp" && "$python" -c "" 2>/dev/null; then
        return 0
    fi
    if ! "$python" -m pip --version >/dev/null 2>&1; then
        found=$(find_python)
        echo "Making the environment in .venv (once; this takes a minute or two) …"
        rm -rf "$here/.venv"
        if ! "$found" -m venv "$here/.venv" 2>/dev/null; then
            rm -rf "$here/.venv"
            debian_install python3-venv
            "$found" -m venv "$here/.venv"
        fi
        # A current pip is faster. If it is not available, the pip of the environment installs the packages.
        "$python" -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes \
            -r "$here/requirements-pip.lock" || true
    fi
    if [ "$2" = requirements.lock ]; then
        install_packages "$lock"
    else
        # The packages for development, without those of the product: both are installed at the same time.
        awk '/^[a-zA-Z0-9]/ { if (NR == FNR) product[$1] = 1; else wanted = !($1 in product) } NR != FNR && wanted' \
            "$here/requirements.lock" "$lock" >"$here/.venv/development.lock"
        install_packages "$here/requirements.lock" &
        product=$!
        status=0
        install_packages "$here/.venv/development.lock" --no-deps || status=$?
        wait "$product" || status=$?
        [ "$status" -eq 0 ] || return "$status"
    fi
    # the package itself: its folder on the path, and the command, both told from where .venv stands
    echo "../../../.." >"$here/.venv/lib/python3.11/site-packages/wisearc.pth"
    cat >"$here/.venv/bin/wisearc" <<'END'
#!/bin/sh
exec "$(dirname "$(readlink -f "$0")")/python" -m wisearc "$@"
END
    chmod +x "$here/.venv/bin/wisearc"
    cp "$lock" "$stamp"
}

# install_packages LOCK [OPTION]: into the environment of make_environment
install_packages() {
    "$python" -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes ${2:-} -r "$1"
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
    # two may be asked for at once: the later waits
    $run apt-get -o DPkg::Lock::Timeout=300 update -qq
    DEBIAN_FRONTEND=noninteractive $run apt-get -o DPkg::Lock::Timeout=300 install -y -qq \
        --no-install-recommends $missing >/dev/null
}
