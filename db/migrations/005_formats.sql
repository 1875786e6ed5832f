-- Up Migration

-- In which format an edit was written: older ones are brought to today's when they are read.
alter table edits add column format smallint not null default 1;

-- What lists show of a part, and what columns of a table are, speak of pins.
update parts set facts = replace(facts::text, '"terminals":', '"pins":')::json;
update table_mappings set mapping = replace(mapping::text, '"terminal:', '"pin:')::jsonb;

-- Down Migration

update table_mappings set mapping = replace(mapping::text, '"pin:', '"terminal:')::jsonb;
update parts set facts = replace(facts::text, '"pins":', '"terminals":')::json;
alter table edits drop column format;
