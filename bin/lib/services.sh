# Sourced after postgres.sh: the server and the worker, each in a process of its own whose id is kept in $RUN.
# where people begin: signs whoever looks after the server in, once; afterwards the plain address does
entry() { echo "$(address)$("$VENV/bin/umbrax" people entry)"; }
address() { echo "http://127.0.0.1:$(cat "$RUN/port")"; }
answers() { "$VENV/bin/python" -c 'import sys, urllib.request; urllib.request.urlopen(sys.argv[1] + "/api/health", timeout=2)' "$(address)" 2>/dev/null; }
# a process started for another database address (PostgreSQL had to move to another port) is of no use any more
current() { running "$RUN/$1.pid" && [ "$(cat "$RUN/$1.database" 2>/dev/null)" = "$(database_mark)" ]; }
database_mark() { sha256sum <"$RUN/database" | cut -c1-16; }
start_service() {
  end_process "$RUN/$1.pid"
  database_mark >"$RUN/$1.database"
  case $1 in
    server) launch "$RUN/server.log" "$VENV/bin/umbrax" serve --host "${UMBRAX_HOST:-127.0.0.1}" --port "$(cat "$RUN/port")" >"$RUN/server.pid" ;;
    worker) launch "$RUN/worker.log" "$ROOT/bin/lib/yielding" "$VENV/bin/umbrax" worker >"$RUN/worker.pid" ;;
  esac
}
# logs are copied and emptied in place: whoever writes to one goes on writing
turn_logs() {
  local log
  for log in "$RUN"/*.log "$(pg_folder)"/server.log; do
    [ -f "$log" ] && [ "$(stat -c %s "$log")" -gt "${UMBRAX_LOG_BYTES:-4000000}" ] || continue
    (umask 077; cp "$log" "$log.1"); : >"$log"
  done
}
