# ./mavrek invite ADDRESS [--role ROLE] [--workspace NAME]: for the first account, and for who has lost a password.

invite_one() {
  [ $# -ge 1 ] || die 'whom? ./mavrek invite ADDRESS [--role viewer|reviewer|editor|owner] [--workspace NAME]'
  . "$MAVREK_HOME/scripts/backup.sh"
  trap done_with_database EXIT
  with_mavrek_database
  run_ts src/server/people/invite.ts "$@"
}
