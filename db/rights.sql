-- What the role mavrek_people may see and change: the second line behind the server's own check (src/server/people/guard.ts).
-- Run after the migrations, as often as one likes: a restored dump brings policies, and no grants.

do $$ begin
  if not exists (select from pg_roles where rolname = 'mavrek_people') then
    create role mavrek_people nologin;
  end if;
  if not pg_has_role(current_user, 'mavrek_people', 'member') then
    execute format('grant mavrek_people to %I', current_user);
  end if;
end $$;

grant usage on schema public to mavrek_people;
revoke all on all tables in schema public from mavrek_people;
grant execute on function mavrek_workspaces(text), mavrek_role_may(text, text), mavrek_scope_may(text, text) to mavrek_people;
revoke execute on function mavrek_workspaces(text) from public;

-- Secrets (people's passwords, sessions, tokens, invitations, sign-ins, attempts) are not for it at all.
grant select on workspaces, members, audit, folded_edits to mavrek_people;
grant select (id, name) on people to mavrek_people;
grant select, insert, update on plans, comments, parts, part_versions, board_profiles, table_mappings to mavrek_people;
grant select, insert on edits, snapshots, exports, revisions, verdicts, documents to mavrek_people;
grant select, insert, delete on families, variants to mavrek_people;
grant delete on parts, part_versions, board_profiles to mavrek_people;

do $$
declare
  one record;
  reads constant text := 'workspace_id = any (array(select mavrek_workspaces(''read'')))';
  edits constant text := 'workspace_id = any (array(select mavrek_workspaces(''edit'')))';
  of_plan constant text := 'exists (select 1 from plans p where p.id = plan_id)';
  of_plan_if constant text := 'exists (select 1 from plans p where p.id = plan_id and p.workspace_id = any (array(select mavrek_workspaces(%L))))';
begin
  for one in
    select * from (values
      -- table, who may see, who may write
      ('plans', reads, edits),
      ('parts', reads, edits),
      ('part_versions', reads, edits),
      ('board_profiles', reads, edits),
      ('table_mappings', reads, edits),
      ('documents', reads, edits),
      ('families', reads, edits),
      ('edits', of_plan, format(of_plan_if, 'edit')),
      ('folded_edits', of_plan, 'false'),
      ('snapshots', of_plan, format(of_plan_if, 'edit')),
      ('exports', of_plan, format(of_plan_if, 'edit')),
      ('revisions', of_plan, format(of_plan_if, 'edit')),
      ('variants', of_plan, format(of_plan_if, 'edit')),
      ('comments', of_plan, format(of_plan_if, 'comment')),
      ('verdicts', of_plan, format(of_plan_if, 'review')),
      ('workspaces', 'id = any (array(select mavrek_workspaces(''read'')))', 'false'),
      ('members', reads, 'false'),
      ('audit', 'workspace_id = any (array(select mavrek_workspaces(''manage'')))', 'false'),
      ('people', 'exists (select 1 from members m where m.person_id = people.id)', 'false'),
      ('sessions', 'false', 'false'),
      ('tokens', 'false', 'false'),
      ('invitations', 'false', 'false'),
      ('sign_ins', 'false', 'false'),
      ('known_devices', 'false', 'false'),
      ('attempts', 'false', 'false')
    ) as all_of (name, sees, writes)
  loop
    execute format('alter table %I enable row level security', one.name);
    execute format('drop policy if exists sees on %I', one.name);
    execute format('drop policy if exists adds on %I', one.name);
    execute format('drop policy if exists changes on %I', one.name);
    execute format('drop policy if exists removes on %I', one.name);
    execute format('create policy sees on %I for select to mavrek_people using (%s)', one.name, one.sees);
    execute format('create policy adds on %I for insert to mavrek_people with check (%s)', one.name, one.writes);
    execute format('create policy changes on %I for update to mavrek_people using (%s) with check (%s)', one.name, one.writes, one.writes);
    execute format('create policy removes on %I for delete to mavrek_people using (%s)', one.name, one.writes);
  end loop;
end $$;
