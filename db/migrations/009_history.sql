-- Up Migration

-- Who made an edit, as they call themselves.
alter table edits add column author text not null default '';

-- Named points of a plan: as it was, with what was found and what was generated then. They never change.
create table revisions (
  id                bigint generated always as identity primary key,
  plan_id           text not null references plans (id) on delete cascade,
  name              text not null,
  seq               bigint not null,
  note              text not null,
  author            text not null,
  plan              jsonb not null,
  fingerprint       text not null,
  part_fingerprint  text not null,
  findings          jsonb not null,
  files             jsonb not null,
  at                timestamptz not null default now(),
  unique (plan_id, name)
);

create function revisions_stay() returns trigger language plpgsql as $$
begin
  -- A plan that goes for good takes its revisions along.
  if tg_op = 'DELETE' and pg_trigger_depth() > 1 then return old; end if;
  raise exception 'a revision never changes' using errcode = 'MV001';
end
$$;

create trigger revisions_stay before update or delete on revisions
  for each row execute function revisions_stay();

-- Down Migration

drop table revisions;
drop function revisions_stay();
alter table edits drop column author;
