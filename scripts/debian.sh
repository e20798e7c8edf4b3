# Sourced by start and check: need PACKAGE… installs Debian packages that are missing, as root or through sudo.
need() {
  local missing=()
  for p in "$@"; do dpkg -s "$p" >/dev/null 2>&1 || missing+=("$p"); done
  [ ${#missing[@]} -eq 0 ] && return 0
  local as=()
  if [ "$(id -u)" -ne 0 ]; then
    if ! command -v sudo >/dev/null; then
      echo "These Debian packages are missing: ${missing[*]}" >&2
      echo "Install them as root: apt-get install ${missing[*]}" >&2
      return 1
    fi
    as=(sudo)
  fi
  echo "Installing from Debian: ${missing[*]}"
  local log; log=$(mktemp)
  if ! { "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq && "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >"$log" 2>&1; then
    tail -n 20 "$log" >&2
    echo "The packages could not be installed." >&2
    return 1
  fi
  rm -f "$log"
}

need_go() {
  export GOFLAGS="${GOFLAGS:-} -trimpath" # what was compiled for one clone serves another
  command -v go >/dev/null && return 0
  [ -x /usr/local/go/bin/go ] && { export PATH="$PATH:/usr/local/go/bin"; return 0; }
  echo "Go 1.26 or newer is needed and was not found on the path." >&2
  return 1
}
