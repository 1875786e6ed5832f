-- Up Migration

-- Parts: the description as imported, with its corrections inside. Descriptions are json, not jsonb: the order of keys
-- (ports, value tables) means something and must come back as it was.
create table parts (
  id           text primary key,
  name         text not null,
  maker        text not null,
  summary      text not null,
  revision     bigint not null default 1,
  fingerprint  text not null,
  -- What lists show: packages, counts.
  facts        json not null,
  -- Digest of the folder a shipped part was read from; null once somebody has imported another description over it.
  shipped      text,
  updated_at   timestamptz not null default now()
);

-- Every description a part ever had: plans stay on the one they were made against until it is taken over.
create table part_versions (
  part_id      text not null references parts (id) on delete cascade,
  fingerprint  text not null,
  description  json not null,
  at           timestamptz not null default now(),
  primary key (part_id, fingerprint)
);

-- Which description a plan stands on, for the part's page.
alter table plans add column device_fingerprint text not null default '';

-- What the columns of a table with these headings are, as the user last said.
create table table_mappings (
  signature   text primary key,
  mapping     jsonb not null,
  updated_at  timestamptz not null default now()
);

-- Down Migration

alter table plans drop column device_fingerprint;
drop table table_mappings;
drop table part_versions;
drop table parts;
