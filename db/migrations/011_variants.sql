-- Up Migration

-- Plans of several boards for one application, and the circuits that they share, by name.
create table families (
  id        text primary key,
  circuits  jsonb not null
);

create table variants (
  plan_id    text primary key references plans (id) on delete cascade,
  family_id  text not null references families (id) on delete cascade
);

create index variants_of_family on variants (family_id);

-- Down Migration

drop table variants;
drop table families;
