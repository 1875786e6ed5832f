# ./mavrek cluster: several servers, HAProxy, PgBouncer and a PostgreSQL of two nodes under Patroni, on the loopback.

cluster_all() {
  [ $# -eq 0 ] || die 'cluster takes no arguments (PORT comes from the environment)'
  claim cluster 'the cluster of this checkout is running already'
  ensure_debian postgresql patroni etcd-server haproxy pgbouncer
  ensure_node_modules
  pg_use cluster
  ensure_build
  export MAVREK_CLUSTER="$PG_HOME" PG_BIN PORT="${PORT:-4600}"
  port_free 127.0.0.1 "$PORT" || die "port $PORT is taken; choose another one, e.g.: PORT=4700 ./mavrek cluster"
  exec node "$MAVREK_HOME/node_modules/tsx/dist/cli.mjs" --tsconfig "$MAVREK_HOME/tsconfig.json" "$MAVREK_HOME/scripts/cluster/cluster.ts"
}
