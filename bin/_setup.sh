# Sourced by the commands beside it: makes .venv at the locked versions and finds what is missing.
# need PACKAGE-LIST: Debian packages, installed as root or by sudo where that needs no password.

# Modules are compiled once, whatever this machine is set to.
unset PYTHONDONTWRITEBYTECODE

root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"

PATH=$PATH:/usr/sbin:/sbin

say() { printf '%s: %s\n' "$(basename "$0")" "$*" >&2; }

need() {
    local missing=() package
    for package in "$@"; do
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
    done
    [ ${#missing[@]} -eq 0 ] && return
    local as=()
    if [ "$(id -u)" -ne 0 ]; then
        if ! { command -v sudo >/dev/null && sudo -n true 2>/dev/null; }; then
            say "missing Debian packages: ${missing[*]}"
            say "ask an administrator for: apt-get install ${missing[*]}"
            exit 1
        fi
        as=(sudo -n)
    fi
    say "installing ${missing[*]}"
    "${as[@]}" apt-get update -qq
    DEBIAN_FRONTEND=noninteractive "${as[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# Debian's own python3; a newer one elsewhere on PATH may lack the venv module.
find_python() {
    local candidate
    for candidate in /usr/bin/python3 "$(command -v python3 || true)"; do
        if [ -x "$candidate" ] && "$candidate" -c 'import sys, ensurepip, venv; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            echo "$candidate"
            return
        fi
    done
}

# python_at LOCK: a virtual environment at exactly the versions in LOCK.
python_at() {
    local lock=$1 stamp=.venv/$1.stamp python
    if [ -f "$stamp" ] && cmp -s "$lock" "$stamp" && .venv/bin/python -c '' 2>/dev/null; then
        return
    fi
    python=$(find_python)
    if [ -z "$python" ]; then
        need python3 python3-venv
        python=$(find_python)
    fi
    [ -n "$python" ] || { say "Python 3.11 or newer with venv is missing"; exit 1; }
    .venv/bin/python -c '' 2>/dev/null || rm -rf .venv
    [ -d .venv ] || "$python" -m venv .venv
    say "installing the locked Python packages (once)"
    # The lock names every package, so pip takes them as they stand and looks for no others: what a
    # package asks for "with an extra" would else be met by whatever was published today.
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --require-hashes -r "$lock" 2>&1 |
        { grep -v '^WARNING: Location' || true; } >&2
    .venv/bin/python -m pip check -q >&2 || { say "$lock does not hold together: see above"; exit 1; }
    .venv/bin/python -c 'import uvicorn, sqlalchemy, ortools'
    printf '%s\n' "$root/src" >"$(.venv/bin/python -c 'import sysconfig; print(sysconfig.get_path("purelib"))')/eldrim.pth"
    cp "$lock" "$stamp"
    # The larger lock holds everything the smaller one does.
    [ "$lock" = requirements-dev.lock ] && cp requirements.lock .venv/requirements.lock.stamp
    return 0
}

postgres() {
    compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || need postgresql
}

# The job sheet is laid out with Pango, and needs a font to do it with.
paper() {
    ldconfig -p | grep -q libpangoft2-1.0.so.0 || need libpango-1.0-0 libpangoft2-1.0-0
    [ -d /usr/share/fonts/truetype/dejavu ] || need fonts-dejavu-core
}

# Chromium without its desktop, or with it where that is all there is. Playwright's driver brings
# its own node, which wants libatomic.
browser() {
    [ -x /usr/bin/chromium-headless-shell ] || [ -x /usr/bin/chromium ] || need chromium-headless-shell
    ldconfig -p | grep -q libatomic.so.1 || need libatomic1
}

# What stands before a server in life, and a certificate to try it with.
proxy() {
    [ -x /usr/sbin/nginx ] || need nginx-light
    command -v openssl >/dev/null || need openssl
}
