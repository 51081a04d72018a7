-- What a Windows machine said that it can count, and what was chosen of it (null: the usual). One row a source.
create table windows_counters (
  source_id int primary key references source on delete cascade,
  told jsonb not null,
  told_at timestamptz not null,
  -- How the machine writes its letters: its list is given back so.
  encoding text not null,
  chosen jsonb
);

-- At which value an incident cleared, and why it ended otherwise: what it was of is not there any more, or its rule was changed, switched off or removed.
alter table incident
  add column cleared_value float8,
  add column ended text check (ended in ('gone', 'rule'));
-- A message that a newer one took the place of before it could be delivered.
alter table message drop constraint message_state_check, add constraint message_state_check check (state in ('waiting', 'sent', 'given up', 'replaced'));
-- In which order messages were made, within one millisecond too.
alter table message add column number bigint generated always as identity;
create index message_waiting on message (recipient_id) where state = 'waiting';

-- When somebody took a machine off the lists; what was gathered stays, and it is there again once anything newer comes.
alter table machine add column removed_at_ms bigint;

-- A script may come once a night, or once a month.
alter table source drop constraint source_interval_ms_check, alter column interval_ms type bigint, add constraint source_interval_ms_check check (interval_ms between 100 and 2678400000);

-- Routers that send their flows.
alter table source drop constraint source_kind_check, add constraint source_kind_check check (kind in ('this-machine', 'pull', 'push', 'collector', 'snmp', 'redfish', 'ipmi', 'ups', 'containers', 'flow'));
alter table source drop constraint source_device_check, add constraint source_device_check check ((device is not null) = (kind in ('snmp', 'redfish', 'ipmi', 'ups', 'containers', 'flow')));
