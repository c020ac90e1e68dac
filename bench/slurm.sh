#!/bin/sh
# slurm.sh BUILD WORK: a campaign of three points from batch scripts to the table, by a Slurm of one node that this script
# starts and ends. Needs root, slurm-wlm and munge.
set -eu
build=$(realpath "$1")
rm -rf "$2"
mkdir -p "$2"
work=$(realpath "$2")
demo=$(realpath "$(dirname "$0")/../demo")
say() { printf '== %s\n' "$*"; }
export OMPI_ALLOW_RUN_AS_ROOT=1 OMPI_ALLOW_RUN_AS_ROOT_CONFIRM=1

mkdir -p "$work/state" "$work/spool"
host=$(hostname -s)
cat > "$work/slurm.conf" <<CONF
ClusterName=bench
SlurmctldHost=$host(127.0.0.1)
SlurmUser=root
AuthType=auth/munge
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
SelectType=select/cons_tres
SelectTypeParameters=CR_Core
StateSaveLocation=$work/state
SlurmdSpoolDir=$work/spool
SlurmctldPidFile=$work/slurmctld.pid
SlurmdPidFile=$work/slurmd.pid
SlurmctldLogFile=$work/slurmctld.log
SlurmdLogFile=$work/slurmd.log
NodeName=$host NodeAddr=127.0.0.1 CPUs=$(nproc) State=UNKNOWN
PartitionName=main Nodes=$host Default=YES MaxTime=INFINITE State=UP
CONF
export SLURM_CONF=$work/slurm.conf
[ -s /etc/munge/munge.key ] || mungekey --create
mkdir -p /run/munge && chown munge: /run/munge
pgrep -x munged > /dev/null || runuser -u munge -- munged
slurmctld -f "$SLURM_CONF"
slurmd -f "$SLURM_CONF"
trap 'kill "$(cat "$work/slurmd.pid")" "$(cat "$work/slurmctld.pid")" 2>/dev/null || true' EXIT
sleep 3
sinfo

cp -r "$demo/brindle.cvane" "$work/b.cvane"
"$build/bin/cvane" set "$work/b.cvane" grid.cell_budget=30000 schedule.alphas_deg=0,3,6
"$build/bin/cvane" batch "$work/b.cvane" --scheduler slurm --ranks "$(nproc)" --hours 0.5
say "submitting"
t0=$(date +%s)
"$work/b.cvane/batch/slurm/submit.sh"
while [ -n "$(squeue -h)" ]; do
    sleep 5
    printf '%4d s  %s\n' $(($(date +%s) - t0)) "$("$build/bin/cvane" table "$work/b.cvane" | awk 'NR > 1 { printf "%s=%s ", $2, $4 }')"
done
"$build/bin/cvane" table "$work/b.cvane"
"$build/bin/cvane" table "$work/b.cvane" | grep -c settled | grep -qx 3
say "all three settled after $(($(date +%s) - t0)) s"
