-- Up Migration

-- With what options of the code it was taken away, as the plan held them.
alter table exports add column options jsonb not null default '{}';

-- Down Migration

alter table exports drop column options;
