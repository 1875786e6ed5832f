-- Up Migration

-- People, and the workspaces that plans, parts and profiles belong to. Without accounts everything is in the workspace "main".
create table workspaces (
  id       text primary key,
  name     text not null,
  made_at  timestamptz not null default now()
);
insert into workspaces (id, name) values ('main', 'Main');

create table people (
  id          text primary key,
  name        text not null,
  -- Null once the person is deleted: the name is a pseudonym then.
  email       text,
  -- argon2id; null for who signs in elsewhere.
  password    text,
  issuer      text,
  subject     text,
  made_at     timestamptz not null default now(),
  deleted_at  timestamptz
);
create unique index people_by_email on people (lower(email));
create unique index people_by_name on people (lower(name));
create unique index people_by_subject on people (issuer, subject);

create table members (
  workspace_id  text not null references workspaces (id) on delete cascade,
  person_id     text not null references people (id) on delete cascade,
  role          text not null check (role in ('viewer', 'reviewer', 'editor', 'owner')),
  since         timestamptz not null default now(),
  primary key (workspace_id, person_id)
);
create index members_by_person on members (person_id);

-- Of whatever lets somebody in only a digest is kept.
create table sessions (
  digest        text primary key,
  id            text not null unique,
  person_id     text not null references people (id) on delete cascade,
  workspace_id  text references workspaces (id) on delete set null,
  agent         text not null,
  made_at       timestamptz not null default now(),
  seen_at       timestamptz not null default now(),
  expires_at    timestamptz not null
);
create index sessions_by_person on sessions (person_id);

create table tokens (
  id            text primary key,
  digest        text not null unique,
  person_id     text not null references people (id) on delete cascade,
  workspace_id  text not null references workspaces (id) on delete cascade,
  name          text not null,
  scope         text not null check (scope in ('read', 'edit')),
  made_at       timestamptz not null default now(),
  expires_at    timestamptz not null,
  used_at       timestamptz
);
create index tokens_by_person on tokens (person_id);

create table invitations (
  id            text primary key,
  digest        text not null unique,
  workspace_id  text not null references workspaces (id) on delete cascade,
  email         text not null,
  role          text not null check (role in ('viewer', 'reviewer', 'editor', 'owner')),
  -- It lets whoever has this account set a new password.
  person_id     text references people (id) on delete cascade,
  made_by       text references people (id) on delete set null,
  made_at       timestamptz not null default now(),
  expires_at    timestamptz not null,
  taken_at      timestamptz
);
create index invitations_of_workspace on invitations (workspace_id, made_at);

-- A sign-in that another service is asked about at this moment.
create table sign_ins (
  state       text primary key,
  verifier    text not null,
  nonce       text not null,
  next        text not null,
  invitation  text,
  expires_at  timestamptz not null
);

-- How often something was tried, for limits that all servers share (the table that rate-limiter-flexible expects).
create table attempts (
  key     varchar(255) primary key,
  points  integer not null default 0,
  expire  bigint
);

-- Who did what. Nothing in it is ever changed; a person who is deleted is renamed in it.
create table audit (
  id            bigint generated always as identity primary key,
  workspace_id  text references workspaces (id) on delete set null,
  person_id     text references people (id) on delete set null,
  who           text not null,
  via           text not null,
  action        text not null,
  target        text not null,
  status        integer not null,
  at            timestamptz not null default now()
);
create index audit_of_workspace on audit (workspace_id, id);

-- What belongs to a workspace says so; nothing is put anywhere by default.
alter table plans add column workspace_id text references workspaces (id);
update plans set workspace_id = 'main';
alter table plans alter column workspace_id set not null;
drop index plans_by_change;
-- As the list of plans wants them.
create index plans_listed on plans (workspace_id, (deleted_at is not null), (coalesce(deleted_at, updated_at)) desc);

alter table parts add column workspace_id text references workspaces (id);
alter table part_versions add column workspace_id text;
update parts set workspace_id = 'main';
update part_versions set workspace_id = 'main';
alter table part_versions drop constraint part_versions_part_id_fkey, drop constraint part_versions_pkey;
alter table parts alter column workspace_id set not null, drop constraint parts_pkey, add primary key (workspace_id, id);
alter table part_versions alter column workspace_id set not null, add primary key (workspace_id, part_id, fingerprint),
  add foreign key (workspace_id, part_id) references parts (workspace_id, id) on delete cascade;

alter table board_profiles add column workspace_id text references workspaces (id);
update board_profiles set workspace_id = 'main';
alter table board_profiles alter column workspace_id set not null, drop constraint board_profiles_device_name_key,
  add unique (workspace_id, device, name);

alter table table_mappings add column workspace_id text references workspaces (id);
update table_mappings set workspace_id = 'main';
alter table table_mappings alter column workspace_id set not null, drop constraint table_mappings_pkey,
  add primary key (workspace_id, signature);

alter table documents add column workspace_id text references workspaces (id);
update documents set workspace_id = 'main';
alter table documents alter column workspace_id set not null, drop constraint documents_pkey,
  add primary key (workspace_id, sha256);

alter table families add column workspace_id text references workspaces (id);
update families set workspace_id = 'main';
alter table families alter column workspace_id set not null;

-- Who it was, beside what they were called; null without accounts.
alter table edits add column person_id text references people (id);
alter table comments add column person_id text references people (id),
  add column resolved_person_id text references people (id);
alter table revisions add column person_id text references people (id);
alter table verdicts add column person_id text references people (id);
create index edits_by_person on edits (person_id) where person_id is not null;

-- What is kept for good changes in one thing only: the name of a person who is deleted, wherever they are its author.
create function mavrek_renamed(doc jsonb, was text, becomes text) returns jsonb language sql immutable as $$
  select replace(doc::text, '"author": ' || to_jsonb(was)::text, '"author": ' || to_jsonb(becomes)::text)::jsonb
$$;

create or replace function revisions_stay() returns trigger language plpgsql as $$
begin
  -- A plan that goes for good takes its revisions along.
  if tg_op = 'DELETE' and pg_trigger_depth() > 1 then return old; end if;
  if tg_op = 'UPDATE' and exists (
    select 1 from people where deleted_at is not null and name = current_setting('mavrek.pseudonym', true)
      and to_jsonb(new) = mavrek_renamed(to_jsonb(old), current_setting('mavrek.renamed', true), name)
  ) then return new; end if;
  raise exception 'a revision never changes' using errcode = 'MV001';
end
$$;

create function audit_stays() returns trigger language plpgsql as $$
begin
  if tg_op = 'UPDATE' and to_jsonb(old) - 'who' - 'workspace_id' = to_jsonb(new) - 'who' - 'workspace_id'
    and (old.who = new.who or exists (select 1 from people where id = old.person_id and deleted_at is not null and name = new.who))
    and (new.workspace_id is null or old.workspace_id is not distinct from new.workspace_id) then return new; end if;
  raise exception 'the audit log never changes' using errcode = 'MV001';
end
$$;
create trigger audit_stays before update or delete on audit for each row execute function audit_stays();

-- The second line behind the server's own check: statements made for people run as the role mavrek_people, which sees and
-- changes only what those named in the setting mavrek.who may, all of them: p: a person, t: a token.
create function mavrek_role_may(role text, need text) returns boolean language sql immutable as $$
  select case need
    when 'read' then true
    when 'comment' then role in ('reviewer', 'editor', 'owner')
    when 'review' then role in ('reviewer', 'owner')
    when 'edit' then role in ('editor', 'owner')
    when 'manage' then role = 'owner'
    else false end
$$;

create function mavrek_scope_may(scope text, need text) returns boolean language sql immutable as $$
  select need = 'read' or (scope = 'edit' and need in ('comment', 'edit'))
$$;

create function mavrek_workspaces(need text) returns setof text
language sql stable security definer set search_path = pg_catalog, public as $$
  with asked as (select distinct unnest(string_to_array(coalesce(current_setting('mavrek.who', true), ''), ',')) as principal),
  granted as (
    select m.workspace_id, asked.principal from asked
      join members m on asked.principal = 'p:' || m.person_id
      where mavrek_role_may(m.role, need)
    union all
    select t.workspace_id, asked.principal from asked
      join tokens t on asked.principal = 't:' || t.id and t.expires_at > now()
      join members m on m.person_id = t.person_id and m.workspace_id = t.workspace_id
      where mavrek_role_may(m.role, need) and mavrek_scope_may(t.scope, need)
  )
  select workspace_id from granted group by workspace_id having count(*) = (select count(*) from asked)
$$;

-- Down Migration

-- Only where everything is in one workspace: what is called the same in several cannot be told apart without them.
drop function mavrek_workspaces(text) cascade;
drop function mavrek_scope_may(text, text);
drop function mavrek_role_may(text, text);
drop function mavrek_renamed(jsonb, text, text);
alter table verdicts drop column person_id;
alter table revisions drop column person_id;
alter table comments drop column person_id, drop column resolved_person_id;
alter table edits drop column person_id;
alter table families drop column workspace_id;
alter table documents drop column workspace_id, add primary key (sha256);
alter table table_mappings drop column workspace_id, add primary key (signature);
alter table board_profiles drop column workspace_id, add unique (device, name);
alter table part_versions drop column workspace_id, add primary key (part_id, fingerprint);
alter table parts drop column workspace_id, add primary key (id);
alter table part_versions add foreign key (part_id) references parts (id) on delete cascade;
drop index plans_listed;
alter table plans drop column workspace_id;
create index plans_by_change on plans (updated_at desc);
drop table audit;
drop function audit_stays();
drop table attempts, sign_ins, invitations, tokens, sessions, members, people, workspaces;
