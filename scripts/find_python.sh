# Sets PYTHON to a Python 3.11 or newer with venv; as root on Debian it is installed when missing.
PYTHON=
for name in python3.11 python3 python3.12 python3.13; do
    if command -v "$name" >/dev/null 2>&1 &&
        "$name" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
        PYTHON=$(command -v "$name")
        break
    fi
done
if [ -z "$PYTHON" ]; then
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing Python..."
        { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q python3 python3-venv ca-certificates; } >/dev/null
        PYTHON=$(command -v python3)
    else
        echo "Python 3.11 with venv and system libraries are missing. Run:" >&2
        echo "  sudo apt-get install python3 python3-venv ca-certificates $(sed -n \
            's/^ *"lib[^"]*": "\(lib[^"]*\)",$/\1/p' "$root/scripts/set_up.py" | tr '\n' ' ')" >&2
        exit 3
    fi
fi
