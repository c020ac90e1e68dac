#!/bin/sh
# package.sh BUILD WORK: makes the Debian package, installs it in a fresh Debian 12 tree, runs the programs there, takes it
# out again and looks for what it left. Needs root, debootstrap, dpkg-dev and the network.
set -eu
build=$(realpath "$1")
mkdir -p "$2"
work=$(realpath "$2")
mirror=${MIRROR:-http://deb.debian.org/debian}
say() { printf '== %s\n' "$*"; }

say "making the package"
rm -f "$build"/crisp-vane_*.deb
(cd "$build" && cpack -G DEB > "$work/cpack.log")
deb=$(ls "$build"/crisp-vane_*.deb)
dpkg-deb --info "$deb" | grep -E "Version|Installed-Size|Depends"

root=$work/root
[ -d "$root/etc" ] || { say "making a fresh Debian 12 tree"; debootstrap --variant=minbase bookworm "$root" "$mirror" > "$work/debootstrap.log"; }
trap 'umount "$root/proc" 2>/dev/null || true' EXIT
mountpoint -q "$root/proc" || mount -t proc proc "$root/proc"
cp "$deb" "$root/tmp/crisp-vane.deb"
inside() { chroot "$root" env LC_ALL=C DEBIAN_FRONTEND=noninteractive OMPI_ALLOW_RUN_AS_ROOT=1 OMPI_ALLOW_RUN_AS_ROOT_CONFIRM=1 sh -c "$1"; }
inside "dpkg-query -W -f '\${Package}\n' | sort > /tmp/before.txt; find / -xdev -type f | grep -vE '^/(proc|sys|dev|tmp|var|run|root)/' | sort > /tmp/files-before.txt"

say "installing it"
inside "apt-get update -q && apt-get install -y -q --no-install-recommends /tmp/crisp-vane.deb" > "$work/install.log" 2>&1

say "running it"
inside "cvane --help | head -3"
inside "crisp-vane --version -platform offscreen"
inside "rm -rf /tmp/b.cvane && cp -r /usr/share/crisp-vane/demo/brindle.cvane /tmp/b.cvane && cvane set /tmp/b.cvane grid.cell_budget=20000 schedule.alphas_deg=4 && cvane run /tmp/b.cvane --ranks 2 && cvane report /tmp/b.cvane --out /tmp/b.pdf && ls -l /tmp/b.pdf"
inside "cd /tmp && python3 -c 'import crispvane; c = crispvane.Campaign(\"/tmp/b.cvane\"); print(c.columns(\"alpha\", \"CL\", \"CD\"))'" ||
    say "python3 is only recommended: not installed here"

say "taking it out"
inside "apt-get purge -y -q crisp-vane && apt-get autoremove -y -q --purge" > "$work/remove.log" 2>&1
inside "find / -xdev -type f | grep -vE '^/(proc|sys|dev|tmp|var|run|root)/' | sort > /tmp/files-after.txt; comm -13 /tmp/files-before.txt /tmp/files-after.txt" > "$work/left.txt"
if grep -i "cvane\|crisp" "$work/left.txt"; then
    say "it left these files"
    exit 1
fi
say "nothing of it is left ($(wc -l < "$work/left.txt") files by other packages)"
