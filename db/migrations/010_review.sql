-- Up Migration

-- What people say about a net, a pad, a setting, a finding or the plan. It is no part of the plan's content.
create table comments (
  id           text primary key,
  plan_id      text not null references plans (id) on delete cascade,
  subject      jsonb not null,
  text         text not null,
  author       text not null,
  at           timestamptz not null default now(),
  answers      text references comments (id) on delete cascade,
  resolved_by  text,
  resolved_at  timestamptz
);

create index comments_of_plan on comments (plan_id, at);

-- What reviewers said of a kept revision, circuit by circuit ('' is all of it). Nothing is ever taken back; the last word counts.
create table verdicts (
  id           bigint generated always as identity primary key,
  plan_id      text not null references plans (id) on delete cascade,
  revision     text not null,
  circuit      text not null,
  verdict      text not null check (verdict in ('approved', 'changes')),
  note         text not null,
  author       text not null,
  fingerprint  text not null,
  at           timestamptz not null default now(),
  foreign key (plan_id, revision) references revisions (plan_id, name) on delete cascade
);

create index verdicts_of_plan on verdicts (plan_id, revision, id);

create trigger verdicts_stay before update or delete on verdicts
  for each row execute function revisions_stay();

-- Down Migration

drop table verdicts;
drop table comments;
