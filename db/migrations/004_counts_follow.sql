-- Up Migration

-- For which edit a plan's errors and warnings were counted: they follow after the edit is stored.
alter table plans add column counted_seq bigint;

-- Down Migration

alter table plans drop column counted_seq;
