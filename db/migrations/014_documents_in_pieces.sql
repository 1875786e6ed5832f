-- Up Migration

-- Documents are compressed already, and are read in pieces: stored as they are, a piece costs no more than its own bytes.
alter table documents alter column content set storage external;

-- Down Migration

alter table documents alter column content set storage extended;
