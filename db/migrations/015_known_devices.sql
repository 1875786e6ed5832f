-- Up Migration

-- Browsers in which somebody has signed in before: guesses made elsewhere do not lock their owner out there.
create table known_devices (
  digest     text primary key,
  person_id  text not null references people (id) on delete cascade,
  seen_at    timestamptz not null default now()
);
create index known_devices_by_person on known_devices (person_id, seen_at);

-- Down Migration

drop table known_devices;
