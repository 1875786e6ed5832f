-- Up Migration

-- Documents that tables of parts were read from, by their content: a datum's source names the document, page and place on it.
create table documents (
  sha256 text primary key check (sha256 ~ '^[0-9a-f]{64}$'),
  name text not null,
  content bytea not null,
  at timestamptz not null default now()
);

-- Down Migration

drop table documents;
