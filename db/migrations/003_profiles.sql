-- Up Migration

-- Board profiles: the fixed wiring of a board, as a plan file's content. One name a part.
create table board_profiles (
  id          text primary key,
  name        text not null,
  device      text not null,
  package     text not null,
  nets        integer not null,
  content     json not null,
  updated_at  timestamptz not null default now(),
  unique (device, name)
);

-- Down Migration

drop table board_profiles;
