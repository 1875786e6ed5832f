-- Up Migration

-- The log of edits, by workspace and time: what is new stands together, and what is old can go as a whole once it is folded. That a
-- number is given once is seen to by the plan's head, which is changed only from the number before; that an edit is stored once, by
-- asking for its id in the same statement.
alter table edits rename to edits_before;
alter table edits_before rename constraint edits_pkey to edits_before_pkey;
alter table edits_before rename constraint edits_plan_id_edit_id_key to edits_before_edit_id_key;
drop index edits_by_person;

create table edits (
  workspace_id  text not null,
  plan_id       text not null references plans (id) on delete cascade,
  seq           bigint not null,
  -- Made by the client: an edit that is sent twice because an answer got lost is stored once.
  edit_id       text not null,
  client        text not null,
  author        text not null default '',
  person_id     text references people (id),
  made_against  bigint not null,
  format        smallint not null default 1,
  edit          jsonb not null,
  at            timestamptz not null default now(),
  primary key (workspace_id, plan_id, seq, at)
) partition by hash (workspace_id);
create index edits_by_id on edits (plan_id, edit_id);
create index edits_by_person on edits (person_id) where person_id is not null;

create table edits_w0 partition of edits for values with (modulus 4, remainder 0) partition by range (at);
create table edits_w1 partition of edits for values with (modulus 4, remainder 1) partition by range (at);
create table edits_w2 partition of edits for values with (modulus 4, remainder 2) partition by range (at);
create table edits_w3 partition of edits for values with (modulus 4, remainder 3) partition by range (at);
-- For clocks that are wrong: an edit is never refused for its time.
create table edits_w0_other partition of edits_w0 default;
create table edits_w1_other partition of edits_w1 default;
create table edits_w2_other partition of edits_w2 default;
create table edits_w3_other partition of edits_w3 default;

-- Makes the partitions of the months from one to another, where they are missing.
create function mavrek_partitions(first date, months integer) returns integer language plpgsql as $$
declare
  part integer;
  month date;
  name text;
  made integer := 0;
begin
  -- One at a time: others find them made.
  perform pg_advisory_xact_lock(7316503);
  for n in 0 .. months - 1 loop
    month := date_trunc('month', first::timestamp) + make_interval(months => n);
    for part in 0 .. 3 loop
      name := format('edits_w%s_%s', part, to_char(month, 'YYYY_MM'));
      if to_regclass(name) is null then
        execute format('create table %I partition of %I for values from (%L) to (%L)',
          name, format('edits_w%s', part), month::timestamp at time zone 'UTC', (month + interval '1 month') at time zone 'UTC');
        made := made + 1;
      end if;
    end loop;
  end loop;
  return made;
end
$$;

select mavrek_partitions(first::date, (extract(year from age(now(), first)) * 12 + extract(month from age(now(), first)))::integer + 4)
  from (select date_trunc('month', coalesce(min(at), now())) as first from edits_before) oldest;

insert into edits (workspace_id, plan_id, seq, edit_id, client, author, person_id, made_against, format, edit, at)
  select p.workspace_id, e.plan_id, e.seq, e.edit_id, e.client, e.author, e.person_id, e.made_against, e.format, e.edit, e.at
  from edits_before e join plans p on p.id = e.plan_id;
drop table edits_before;

-- Old edits, many in one row: compressed, out of the way of what is new, and still the history.
create table folded_edits (
  plan_id   text not null references plans (id) on delete cascade,
  first     bigint not null,
  last      bigint not null,
  -- For those that are sent again after very long.
  edit_ids  text[] not null,
  -- As rows of the log, in their order.
  edits     jsonb not null,
  primary key (plan_id, first)
);
create index folded_edits_by_id on folded_edits using gin (edit_ids);

-- Folds so many edits of a plan that follow those folded before, if all of them are there and older than a time. Snapshots between
-- them go but for the first. Answers how many were folded.
create function mavrek_fold(the_plan text, many integer, before timestamptz) returns integer language plpgsql as $$
declare
  workspace text;
  start bigint;
  found integer;
begin
  if not pg_try_advisory_xact_lock(7316504, hashtext(the_plan)) then return 0; end if;
  select workspace_id into workspace from plans where id = the_plan;
  select coalesce(max(last), 0) + 1 into start from folded_edits where plan_id = the_plan;
  select count(*) into found from edits
    where workspace_id = workspace and plan_id = the_plan and seq >= start and seq < start + many and at < before;
  if found < many then return 0; end if;
  insert into folded_edits (plan_id, first, last, edit_ids, edits)
    select the_plan, start, start + many - 1, array_agg(edit_id order by seq), jsonb_agg(jsonb_build_object(
      'seq', seq, 'editId', edit_id, 'client', client, 'author', author, 'personId', person_id,
      'madeAgainst', made_against, 'format', format, 'edit', edit, 'at', at) order by seq)
    from edits where workspace_id = workspace and plan_id = the_plan and seq >= start and seq < start + many;
  delete from edits where workspace_id = workspace and plan_id = the_plan and seq >= start and seq < start + many;
  delete from snapshots s where s.plan_id = the_plan and s.seq >= start and s.seq < start + many
    and s.seq > (select min(seq) from snapshots where plan_id = the_plan and seq >= start)
    and s.seq < (select max(seq) from snapshots where plan_id = the_plan);
  return many;
end
$$;

-- Down Migration

create table edits_after as
  select plan_id, seq, edit_id, client, made_against, edit, at, format, author, person_id from edits
  union all
  select f.plan_id, (e->>'seq')::bigint, e->>'editId', e->>'client', (e->>'madeAgainst')::bigint, e->'edit',
    (e->>'at')::timestamptz, (e->>'format')::smallint, e->>'author', e->>'personId'
  from folded_edits f, jsonb_array_elements(f.edits) e;
drop function mavrek_fold(text, integer, timestamptz);
drop function mavrek_partitions(date, integer);
drop table folded_edits, edits;
alter table edits_after rename to edits;
alter table edits add primary key (plan_id, seq), add unique (plan_id, edit_id), alter column at set default now(),
  add foreign key (plan_id) references plans (id) on delete cascade;
