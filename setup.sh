# Sourced by run-demo and run-tests: packages and build. `say` is theirs.
install_packages() {
    local missing=()
    while read -r package; do
        [ -n "$package" ] || continue
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
    done < packages.txt
    if [ "${#missing[@]}" -eq 0 ]; then
        say "All packages of packages.txt are installed"
        return
    fi
    say "Installing ${#missing[@]} packages: ${missing[*]}"
    local root=()
    [ "$(id -u)" -eq 0 ] || root=(sudo)
    "${root[@]}" apt-get update -qq
    "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

build_release() {
    say "Building in build/ (the first time takes some minutes)"
    cmake --preset release >/dev/null
    cmake --build --preset release -- -k 0
}
