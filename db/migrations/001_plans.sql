-- Up Migration

-- A plan is an append-only log of edits plus snapshots. The row here is the head: it carries what the list of plans
-- shows and the sequence number of the newest edit, and is locked while an edit is appended.
create table plans (
  id          text primary key,
  name        text not null,
  revision    text not null,
  device      text not null,
  package     text not null,
  seq         bigint not null default 0,
  nets        integer not null default 0,
  placed      integer not null default 0,
  errors      integer not null default 0,
  warnings    integer not null default 0,
  created_at  timestamptz not null default now(),
  updated_at  timestamptz not null default now(),
  deleted_at  timestamptz
);

create index plans_by_change on plans (updated_at desc);

create table edits (
  plan_id       text not null references plans (id) on delete cascade,
  seq           bigint not null,
  -- Made by the client: an edit that is sent twice because an answer got lost is stored once.
  edit_id       text not null,
  client        text not null,
  made_against  bigint not null,
  edit          jsonb not null,
  at            timestamptz not null default now(),
  primary key (plan_id, seq),
  unique (plan_id, edit_id)
);

create table snapshots (
  plan_id  text not null references plans (id) on delete cascade,
  seq      bigint not null,
  plan     jsonb not null,
  primary key (plan_id, seq)
);

-- What was last taken away, so that the code view can show what changed since.
create table exports (
  id           bigint generated always as identity primary key,
  plan_id      text not null references plans (id) on delete cascade,
  seq          bigint not null,
  target       text not null,
  fingerprint  text not null,
  files        jsonb not null,
  at           timestamptz not null default now()
);

create index exports_newest on exports (plan_id, target, id desc);

-- Down Migration

drop table exports;
drop table snapshots;
drop table edits;
drop table plans;
