# Sourced: a PostgreSQL cluster of the project's own on loopback. Its address is kept in $RUN/database (mode 600).
pg_programs() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }
as_pg() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }
# PostgreSQL refuses to run as root, and the plain user must be able to reach the folder: else use one it can reach
pg_folder() {
  # 0 in so many words: where it is asked as a command failed, at the end of bin/test, a bare return would fail as well
  if [ -s "$RUN/pg.folder" ]; then cat "$RUN/pg.folder"; return 0; fi
  local here=$STATE/postgres
  if [ "$(id -u)" = 0 ]; then
    mkdir -p "$here"; chown postgres "$here"; chmod 700 "$here"
    as_pg test -w "$here" 2>/dev/null || { rmdir "$here"; here=/var/tmp/umbrax-postgres-$(printf '%s' "$STATE" | sha256sum | cut -c1-12); }
  fi
  echo "$here" >"$RUN/pg.folder"; echo "$here"
}
pg_start() {
  local programs folder; programs=$(pg_programs); folder=$(pg_folder)
  [ -n "$programs" ] || fail "PostgreSQL is not installed; run bin/setup"
  mkdir -p "$folder"; chmod 700 "$folder"; [ "$(id -u)" != 0 ] || chown postgres "$folder"
  if [ ! -s "$folder/PG_VERSION" ]; then
    say "postgres: making a cluster in $folder"
    local password; password=$(head -c 24 /dev/urandom | base64 | tr -dc 'A-Za-z0-9')
    local secret; secret=$(mktemp); printf '%s' "$password" >"$secret"; [ "$(id -u)" != 0 ] || chown postgres "$secret"
    (cd / && as_pg "$programs/initdb" -D "$folder" -U umbrax -A scram-sha-256 --pwfile="$secret" -E UTF8 --locale=C.UTF-8 >"$RUN/initdb.log" 2>&1) || { cat "$RUN/initdb.log" >&2; rm -f "$secret"; fail "initdb failed"; }
    rm -f "$secret"
    (umask 077; printf '%s' "$password" >"$RUN/pg.password")
    rm -f "$RUN/pg.port"
  fi
  if ! pg_alive; then
    [ -s "$RUN/pg.port" ] || free_port >"$RUN/pg.port"
    say "postgres: starting on 127.0.0.1:$(cat "$RUN/pg.port")"
    # what is left of a killed one may need a moment to end; another port is taken only where somebody else has this one
    local start; for start in 1 2 3 4; do
      port_is_free "$(cat "$RUN/pg.port")" || [ "$start" -lt 3 ] || free_port >"$RUN/pg.port"
      pg_launch "$programs" "$folder" && break
      [ "$start" -lt 4 ] || { tail -n 20 "$folder/server.log" >&2; fail "PostgreSQL did not start; all it said is in $folder/server.log"; }
      sleep 1
    done
    touch "$RUN/pg.started"
  fi
  (umask 077; echo "postgresql://umbrax:$(cat "$RUN/pg.password")@127.0.0.1:$(cat "$RUN/pg.port")/umbrax" >"$RUN/database")
  export UMBRAX_DATABASE; UMBRAX_DATABASE=$(cat "$RUN/database")
}
# asked every second: by the process that its note names, without starting one
pg_alive() {
  local folder; folder=$(pg_folder)
  [ -s "$folder/postmaster.pid" ] && grep -qaF -- "$folder" "/proc/$(head -n 1 "$folder/postmaster.pid")/cmdline" 2>/dev/null
}
# logs of earlier versions held the password: they go
forget_password() {
  local log password; password=$(cat "$RUN/pg.password")
  for log in "$RUN"/*.log "$RUN"/*.log.1; do [ ! -f "$log" ] || ! grep -qF -- "$password" "$log" || : >"$log"; done
}
pg_launch() {
  (cd / && as_pg "$1/pg_ctl" -D "$2" -w -t 30 -l "$2/server.log" -o "-p $(cat "$RUN/pg.port") -c listen_addresses=127.0.0.1 -c unix_socket_directories='$2'" start >/dev/null 2>&1 </dev/null)
}
pg_stop() {
  local programs folder; programs=$(pg_programs); folder=$(pg_folder)
  if pg_alive; then
    (cd / && as_pg "$programs/pg_ctl" -D "$folder" -m fast -w stop >/dev/null); say "postgres: stopped"
  fi
  rm -f "$RUN/pg.started"
}
