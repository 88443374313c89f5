# Sourced by every command: where things are, and the environment the programs need.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd)
STATE=${UMBRAX_STATE:-$ROOT/var}
RUN=$STATE/run
VENV=$ROOT/.venv
export UMBRAX_STATE=$STATE
export NUMBA_CACHE_DIR=${NUMBA_CACHE_DIR:-$STATE/kernels}
export NUMBA_THREADING_LAYER=omp
# threads that wait for the next loop sleep: many requests, or processes of tests, share few processors. For some 50 us they look out
# for it, and not where a process has more of them than there are processors
export OMP_WAIT_POLICY=passive GOMP_SPINCOUNT=5000
export PYTHONUNBUFFERED=1
# what was compiled is kept: processes come and go, and each would compile all sources anew
unset PYTHONDONTWRITEBYTECODE
export PIP_DISABLE_PIP_VERSION_CHECK=1
# large pictures come and go: let freed memory be used again instead of asking the system for zeroed pages each time
export MALLOC_ARENA_MAX=2 MALLOC_MMAP_THRESHOLD_=1073741824 MALLOC_TRIM_THRESHOLD_=2147483648 MALLOC_TOP_PAD_=67108864
# what runs keeps to itself what it writes; PostgreSQL, a user of its own, must still get through the folder
mkdir -p "$STATE" "$RUN" "$NUMBA_CACHE_DIR"
chmod 711 "$STATE"; chmod 700 "$RUN"
say() { printf '%s\n' "$*" >&2; }
fail() { say "umbrax: $*"; exit 1; }
# start a process of its own session that outlives this shell: launch LOGFILE command...
launch() { local log=$1; shift; (umask 077; setsid nohup "$@" >>"$log" 2>&1 </dev/null & echo $!); }
# logged NAME REMEDY command...: its output goes to $RUN/NAME.log, and to the person where it fails
logged() {
  local log=$RUN/$1.log remedy=$2; shift 2
  "$@" >"$log" 2>&1 || { tail -n 20 "$log" >&2; fail "$remedy; all it said is in $log"; }
}
# After a restart of the machine the same number may be somebody else's process. One that is just becoming another program
# has no command line for a moment, as one that has ended has: it is asked again.
running() {
  [ -s "$1" ] || return 1
  local pid line; pid=$(cat "$1")
  for _ in $(seq 20); do
    line=$(tr '\0' ' ' 2>/dev/null <"/proc/$pid/cmdline") || return 1
    [ -z "$line" ] || break
    grep -q '^State:[[:space:]]*[ZX]' "/proc/$pid/status" 2>/dev/null && return 1
    sleep 0.05
  done
  [[ $line == *"$ROOT"* ]]
}
end_process() {
  running "$1" || { rm -f "$1"; return 0; }
  local pid; pid=$(cat "$1")
  kill "$pid" 2>/dev/null || true
  for _ in $(seq 50); do kill -0 "$pid" 2>/dev/null || break; sleep 0.1; done
  kill -9 "$pid" 2>/dev/null || true
  rm -f "$1"
}
port_is_free() { "$VENV/bin/python" -c 'import socket, sys; s=socket.socket(); s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1); s.bind(("127.0.0.1", int(sys.argv[1])))' "$1" 2>/dev/null; }
free_port() { "$VENV/bin/python" -c 'import socket; s=socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }
