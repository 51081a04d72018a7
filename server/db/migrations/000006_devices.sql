-- Devices that are asked over their own protocols.
alter table source drop constraint source_kind_check;
alter table source add constraint source_kind_check check (kind in ('this-machine', 'pull', 'push', 'collector', 'snmp', 'redfish', 'ipmi', 'ups', 'containers'));
alter table source drop constraint source_credentials_check;
alter table source add constraint source_credentials_check check (credentials in ('none', 'basic', 'bearer', 'community', 'snmp user'));
alter table source add column device jsonb;
alter table source add constraint source_device_check check ((device is not null) = (kind in ('snmp', 'redfish', 'ipmi', 'ups', 'containers')));

-- What happened: to a machine, a container; by a person later.
create table event (
  id bigint generated always as identity primary key,
  from_ms bigint not null,
  to_ms bigint not null check (to_ms >= from_ms),
  kind text not null check (char_length(kind) between 1 and 60),
  machine text not null default '',
  text text not null check (char_length(text) between 1 and 2000),
  tags jsonb not null default '{}',
  source_id int references source on delete set null
);
create index event_time on event (from_ms);
