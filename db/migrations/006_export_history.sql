-- Up Migration

-- What registers held when code was taken away, and of which revision of the plan: for the history of exports.
alter table exports add column revision text not null default '';
alter table exports add column image jsonb not null default '{}';

-- Down Migration

alter table exports drop column image;
alter table exports drop column revision;
